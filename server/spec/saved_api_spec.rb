# frozen_string_literal: true

require_relative "server_helper"

# What is noted on dates, and analyses that are kept under a name.
RSpec.describe "the API of notes and saved analyses" do
  include ApiHelper

  def refused(verb, path, body)
    raw(verb, path, "application/json", JSON.generate(body)).then { |status, text| [status, JSON.parse(text).then { |problem| [problem["detail"], *problem["errors"].map { |one| one["message"] }].join(" ") }] }
  end

  it "keeps notes, tells of exports and rules beside them, and shows private ones to whoever wrote them" do
    fill
    note = call(:post, "/annotations", { date: "2026-05-03", text: "  Fares rise " })
    expect(note).to include("date" => "2026-05-03", "text" => "Fares rise", "private" => false, "mine" => true)
    hidden = call(:post, "/annotations", { date: "2026-05-01", text: "Mine alone", private: true })
    call(:put, "/annotations/#{note["id"]}", { date: "2026-05-04", text: "Fares rose" })
    call(:post, "/rule-sets", { name: "Other", activity: ["ride_ended"], new_for: 1, active_within: 2, churned_after: 3 })
    listed = call(:get, "/annotations")
    expect(listed["annotations"].map { |row| row["text"] }).to eq(["Mine alone", "Fares rose"])
    expect(listed["happened"]).to include(a_hash_including("kind" => "rules", "text" => "Rules “Other”, version 1"))
    sign_in("viewer")
    expect(call(:get, "/annotations")["annotations"].map { |row| row["text"] }).to eq(["Fares rose"])
    sign_in("analyst")
    expect(raw(:put, "/annotations/#{hidden["id"]}", "application/json", JSON.generate(date: "2026-05-01", text: "x")).first).to eq(404)
    call(:delete, "/annotations/#{note["id"]}")
    expect(call(:get, "/annotations")["annotations"]).to eq([])
    { { date: "2026-02-30", text: "x" } => /./, { date: "2026-05-03", text: "" } => /text|character/, { date: "2026-05-03", text: "   " } => /blank/, { date: "2026-05-03", text: "x" * 201 } => /text|200/ }
      .each { |body, message| expect(refused(:post, "/annotations", body)).to match([422, message]), body.to_s }
  end

  it "keeps groups of one's own, tells people apart by them in their order, and still answers about deleted ones" do
    fill
    seasons = [["Before May", { to: "2026-04-30" }], ["May", { from: "2026-05-01" }]].map { |name, window| { name: name, who: { seen: { window: window } } } }
    kept = call(:post, "/groupings", { name: " Seasons ", groups: seasons })
    expect(kept).to include("name" => "Seasons", "author" => "administrator@estrel.example")
    expect(kept["groups"].map { |group| group.values_at("name", "from", "to") }).to eq([["Before May", nil, "2026-04-30"], ["May", "2026-05-01", nil]])
    told = -> { picture("breakdown", as_of: "2026-05-31", by: { grouping: kept["id"] })["rows"].map { |row| row.values_at("value", "counts") } }
    people = call(:get, "/people?as_of=2026-05-31")["total"]
    expect(told.call).to eq([["May", [people]]])
    call(:put, "/groupings/#{kept["id"]}", { name: "Seasons", updated_at: kept["updated_at"], groups: [{ name: "Often", who: { did: { event: "ride_ended", count: { at_least: 4 } } } }, *seasons] })
    often = call(:post, "/audiences/preview", { definition: { did: { event: "ride_ended", count: { at_least: 4 } } }, as_of: "2026-05-31" })["size"]
    expect(told.call).to eq([["Often", [often]], ["May", [people - often]]])
    expect(refused(:put, "/groupings/#{kept["id"]}", { name: "x", updated_at: kept["updated_at"], groups: seasons })).to match([409, /Someone else changed these groups/])
    call(:delete, "/groupings/#{kept["id"]}")
    expect([call(:get, "/groupings")["groupings"], told.call.size]).to eq([[], 2])
    expect(call(:post, "/groupings/#{kept["id"]}/restore")["deleted"]).to be(false)
    { { name: "x", groups: [seasons.first] * 2 } => /two groups are called/i, { name: "x", groups: [{ name: "a", who: { audience: { id: 1 } } }] } => /audience/,
      { name: " ", groups: seasons } => /name/i, { name: "x", groups: [] } => /groups/i }.each { |body, message| expect(refused(:post, "/groupings", body)).to match([422, message]), body.to_s }
    expect(analyse("breakdown", as_of: "2026-05-31", by: { grouping: 99 })).to be_refused(422, /custom groups 99 do not exist/i)
    call(:post, "/groupings", { name: "Picked", groups: [{ name: "some", who: { listed: { by: "customer", values: ["3"] } } }] })
    sign_in("viewer")
    expect(call(:get, "/groupings")["groupings"].flat_map { |row| row["groups"] }.map { |group| group["sentence"] }).to include(EstrelServer::Access::Disclosure::HIDDEN)
  end

  it "keeps an analysis with its versions, files, shares, deletes and restores it, and writes over nobody's change" do
    saved = call(:post, "/saved-analyses", { name: "Rides", folder: "Weekly", analysis: "trends", question: { "event" => "ride_ended", "from" => "-30" } })
    expect(saved).to include("version" => 1, "folder" => "Weekly", "question" => { "event" => "ride_ended", "from" => "-30" }, "mine" => true)
    path = "/saved-analyses/#{saved["id"]}"
    changed = call(:put, path, { analysis: "trends", question: { "event" => "pass_bought" }, updated_at: saved["updated_at"] })
    expect(changed).to include("version" => 2, "name" => "Rides")
    expect(call(:put, path, { analysis: "trends", question: { "event" => "pass_bought" }, note: "as before" })).to include("version" => 2, "note" => "as before")
    expect(refused(:put, path, { name: "Late", updated_at: saved["updated_at"] })).to match([409, /omeone else changed/])
    expect(call(:get, path)["versions"].map { |row| row["question"] }).to eq([{ "event" => "pass_bought" }, { "event" => "ride_ended", "from" => "-30" }])
    call(:put, path, { private: true })
    sign_in("viewer")
    expect(call(:get, "/saved-analyses")["saved_analyses"]).to eq([])
    sign_in
    call(:delete, path)
    expect(call(:get, "/saved-analyses")["saved_analyses"]).to eq([])
    expect(call(:post, "#{path}/restore")).to include("name" => "Rides")
    { { name: "x", analysis: "nothing", question: {} } => /o analysis called/, { name: " ", analysis: "trends", question: {} } => /blank/, { name: "x", analysis: "trends", question: { "a" => 1 } } => /./, { name: "x", analysis: "trends" } => /./ }
      .each { |body, message| expect(refused(:post, "/saved-analyses", body)).to match([422, message]), body.to_s }
  end
end
