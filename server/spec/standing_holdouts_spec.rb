# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::API::StandingHoldoutsEndpoint do
  include ApiHelper

  let(:today) { EstrelServer::Workspace.current.calendar.day_of((Time.now.to_r * 1_000_000).to_i) }
  let(:everybody) { call(:post, "/audiences", { name: "Everybody", definition: { "all" => [] } }) }

  before { fill }

  def hold_back(share: 0.5, from: today + 1, to: from.is_a?(Date) ? from + 90 : today + 90) = call(:post, "/standing-holdouts", { share: share, first_day: from.as_json, last_day: to.as_json })

  def held_by(standing) = EstrelServer::Profile.ids.select { |id| standing.rule.place(id) < standing.rule.limit }

  # One that began before today. Whom it holds depends on its first day: of few people it may be nobody, or all of them,
  # so it begins on the latest day, up to the one given, from which on it holds some.
  def in_force(from: today - 3, to: today + 30)
    0.step.lazy.map { |days| EstrelServer::StandingHoldout.new(share: 0.5, first_day: from - days, last_day: to) }
     .find { |standing| held_by(standing).size.between?(1, 5) }.tap(&:save!)
  end

  def new_export(name = "Weekly", **rules)
    call(:post, "/exports", { name: name, audience_id: everybody["id"], rules: { columns: [{ take: "identifier:customer" }], **rules }, as_of: "2026-05-20" })
  end

  def carry_out(export)
    run = call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    work_off
    call(:get, "/runs/#{run["id"]}")
  end

  def ids(run, step) = call(:get, "/runs/#{run["id"]}/people?step=#{step}")["rows"].map { |row| row["id"] }

  it "holds the same share of everybody back from every export while it is in force, and nobody before and after" do
    coming = hold_back
    export = new_export
    expect(carry_out(export)["people"]).to include("standing_holdout" => 0, "exported" => 6)
    call(:delete, "/standing-holdouts/#{coming["id"]}")
    standing = in_force
    held = held_by(standing)
    done = carry_out(export)
    expect(done["people"]).to include("standing_holdout" => held.size, "exported" => 6 - held.size)
    expect(ids(done, "standing_holdout")).to match_array(held)
    # Of those left, the holdout of an export takes its own share; and whoever was held back counts as messaged.
    half = call(:post, "/holdouts", { name: "Half", number: 1 })
    other = new_export("Other", holdout: half["id"], messaged: { events: [], days: 5, runs: true })
    expect(call(:post, "/exports/try", { export: other["id"], as_of: "2026-05-20" })["people"]).to include("messaged" => 6, "standing_holdout" => 0)
    alone = new_export("Alone", holdout: half["id"])
    expect(call(:post, "/exports/try", { export: alone["id"], as_of: "2026-05-20" })["people"]).to include("standing_holdout" => held.size, "holdout" => 1, "exported" => 5 - held.size)
    ended = call(:post, "/standing-holdouts/#{standing.id}/end")
    expect(ended["last_day"]).to eq(today.iso8601)
    standing.update_columns(first_day: today - 30, last_day: today - 1)
    expect(carry_out(export)["people"]).to include("standing_holdout" => 0, "exported" => 6)
  end

  it "lists and downloads whom it holds, before it begins too, masked for viewers" do
    standing = EstrelServer::StandingHoldout.find(hold_back["id"])
    held = held_by(standing)
    list = ->(**more) { call(:get, "/people?#{URI.encode_www_form(as_of: "2026-05-20", held_by: standing.id, **more)}") }
    expect(list.call["rows"].map { |row| row["id"] }).to match_array(held)
    expect(list.call(profile_type: "visitor")["total"]).to eq(0)
    file = -> { CSV.parse(raw("GET", "/people.csv?as_of=2026-05-20&held_by=#{standing.id}").last, headers: true) }
    expect(file.call.map { |row| row["id"].to_i }).to match_array(held)
    expect(call(:get, "/people?held_by=987654")).to include("status" => 422, "detail" => "This global holdout does not exist.")
    sign_in("viewer")
    expect(file.call.map { |row| row["identifiers"] }.join).to include("•••")
  end

  it "keeps a run that is begun anew to the day on which it was started" do
    in_force(from: today - 10, to: today - 1)
    export = new_export
    run = EstrelServer::ExportRun.find(call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })["id"])
    run.update_columns(created_at: Time.now.utc - (5 * 86_400))
    work_off
    expect(run.reload.waterfall["standing_holdout"]).to be_positive
  end

  it "measures what came of it, among everybody known when it began" do
    standing = in_force(from: Date.new(2026, 5, 3), to: Date.new(2026, 5, 20))
    held = held_by(standing)
    told = analyse("export-effect", standing: standing.id, metric: { lifecycle: "was_active" }, as_of: "2026-06-01")
    expect(told["finding"]).to match(/\ANot enough people for a verdict \(minimum 50\): .* of people outside the holdout vs .* of the global holdout were active\./)
    people = told["picture"]["groups"].map { |group| group["people"] }
    expect(people.sum).to be_between(1, 6)
    expect(people.last).to be <= held.size
    expect(told["picture"]).to include("from" => standing.first_day.iso8601, "to" => "2026-05-20", "complete" => true)
    expect(analyse("export-effect", standing: 99)).to be_refused(422, /global holdout 99 does not exist/i)
    expect(analyse("export-effect", standing: standing.id, metric: { lifecycle: "fame" })).to be_refused(422, /must be one of/)
  end

  it "is fixed once it has begun, and one at a time" do
    expect(call(:get, "/standing-holdouts")).to eq({ "today" => today.iso8601, "holdouts" => [] })
    row = hold_back(share: 0.05, from: today + 2)
    expect(row).to include("share" => 0.05, "first_day" => (today + 2).iso8601)
    { { from: today } => /must start tomorrow or later/, { from: today + 90 } => /already one for/, { from: today + 1, to: today + 2 } => /can last 7 to 366 days/, { from: today + 200, to: today + 203 } => /can last 7 to 366 days/,
      { from: today + 200, to: today + 900 } => /can last 7 to 366 days/, { from: today + 200, to: today + 100 } => /can last/, { share: 0, from: today + 200 } => /greater than 0/, { share: 0.6, from: today + 200 } => /less than or equal to 0.5/,
      { share: "x", from: today + 200 } => /share/i, { from: today + 200, to: "soon" } => /must be a date/, { from: nil, to: today + 9 } => /must be text/ }
      .each { |given, reason| expect(hold_back(**given)).to be_refused(422, reason) }
    expect(call(:post, "/standing-holdouts/#{row["id"]}/end")).to be_refused(409, /call it off instead/)
    expect(call(:delete, "/standing-holdouts/#{row["id"]}")).to eq({ "deleted" => true })
    begun = in_force
    expect(call(:delete, "/standing-holdouts/#{begun.id}")).to be_refused(409, /end it instead/)
    call(:post, "/standing-holdouts/#{begun.id}/end")
    expect(call(:post, "/standing-holdouts/#{begun.id}/end")).to be_refused(409, /has ended already/)
    expect(EstrelServer::AuditEntry.where(action: "standing holdout changed").count).to be >= 3
    sign_in("analyst")
    expect(hold_back(from: today + 400)).to include("status" => 403)
  end
end
