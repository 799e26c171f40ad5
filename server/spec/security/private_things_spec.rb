# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::References do
  include ApiHelper

  let(:takeover) { "Takeover candidates" }
  let(:dials) { { activity: ["ride_ended"], new_for: 1, active_within: 2, churned_after: 3 } }

  def audience(name, definition = { "all" => [] }) = call(:post, "/audiences", { name: name, definition: definition })

  def share(place, id, private) = call(:put, "/#{place}/#{id}/sharing", { private: private })

  def new_export(name, audience) = call(:post, "/exports", { name: name, audience_id: audience["id"], as_of: "2026-05-20", rules: { columns: [{ take: "identifier:customer" }] } })

  def detail(method, path, body = nil) = call(method, path, body)["detail"].to_s

  it "keeps private things from others in every operation, by number, by restoring, in lists and inside other answers" do
    fill
    call(:post, "/rule-sets", { name: "Default", **dials })
    sign_in("analyst")
    secret = audience(takeover, { "attribute" => { "name" => "plan", "compare" => "is", "value" => "monthly" } })
    share("audiences", secret["id"], true)
    rule_set = call(:post, "/rule-sets", { name: "#{takeover} rule_set", **dials, population: secret["id"] })
    export = new_export("#{takeover} export", secret)
    expect([rule_set["private"], export["private"]]).to eq([true, true])
    run = call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    EstrelServer::ExportRun.find(run["id"]).finish("failed", error: "on purpose")
    deleted = audience("#{takeover} deleted")
    share("audiences", deleted["id"], true)
    call(:delete, "/audiences/#{deleted["id"]}")
    person = EstrelServer::Profile.first.id
    sign_in("analyst", email: "other@estrel.example")
    numbers = { "audiences" => [secret["id"], deleted["id"]], "rule_sets" => [rule_set["id"]], "exports" => [export["id"]], "runs" => [run["id"]] }
    answers = ApiHelper::DESCRIPTION["paths"].flat_map do |path, item|
      (item.keys & %w[get post put delete]).flat_map do |verb|
        next [] if path.start_with?("/session", "/workspace/clear") || path == "/people/{id}/erase"

        ids = numbers[path.split("/")[1]] || [person]
        ids.map { |id| [verb, path, raw(verb, path.gsub("{audience}", secret["id"].to_s).gsub(/\{\w+\}/, id.to_s), verb == "get" ? nil : "application/json", "{}")] }
      end
    end
    leaking = answers.select { |_, _, (_, body)| body.include?("Takeover") }.map { |verb, path, _| "#{verb} #{path}" }
    expect(leaking).to eq([])
    theirs = answers.select { |_, path, _| path.match?(%r{\A/(audiences|rule_sets|exports|runs)/\{id\}}) && !path.include?("sharing") }
    expect(theirs.map { |_, _, (status, _)| status }.uniq - [404, 422]).to eq([])
    found = [[:get, "/people?audience=#{secret["id"]}"], [:get, "/people?compare=#{secret["id"]}"], [:post, "/analyses/states", { rule_set: rule_set["id"] }],
             [:post, "/analyses/breakdown", { audiences: [secret["id"]], by: { state: true } }],
             [:post, "/audiences/preview", { definition: { "audience" => { "id" => secret["id"] } } }], [:post, "/rule-sets", { name: "x", **dials, population: secret["id"] }],
             [:post, "/audiences/preview", { definition: { "lifecycle" => { "is" => ["new"], "rule_set" => { "id" => rule_set["id"] } } } }],
             [:post, "/exports", { name: "x", audience_id: secret["id"], as_of: "2026-05-20", rules: { columns: [{ take: "state" }] } }]]
    answered = found.map { |request| [call(*request), last_response.status] }
    expect(answered.to_json).not_to include("Takeover")
    expect(answered.map(&:last) - [404, 422]).to eq([])
    expect(call(:get, "/alerts")["alerts"]).to eq([])
    sign_in("analyst")
    expect(call(:get, "/alerts")["alerts"].map { |row| row["text"] }).to contain_exactly(include(takeover))
  end

  it "lets nobody see a thing without seeing what it is made of" do
    fill
    sign_in("analyst")
    mine = audience("Mine")
    share("audiences", mine["id"], true)
    shared = audience("Shared")
    expect(detail(:put, "/audiences/#{shared["id"]}", { definition: { "audience" => { "id" => mine["id"] } } })).to include("\"Mine\", which is private")
    around = audience("Around", { "not" => { "audience" => { "id" => mine["id"] } } })
    expect(around["private"]).to be(true)
    expect(share("audiences", around["id"], false)["detail"]).to include("\"Mine\", which is private")
    expect(share("audiences", mine["id"], false)["private"]).to be(false)
    expect(share("audiences", around["id"], false)["private"]).to be(false)
    expect(share("audiences", mine["id"], true)["detail"]).to include("used by \"Around\"")
    share("audiences", around["id"], true)
    sign_in("analyst", email: "other@estrel.example")
    expect(call(:delete, "/audiences/#{mine["id"]}")["errors"]).to eq([{ "place" => "a private item of another user", "message" => "uses it" }])
  end

  it "brings nothing back whose parts are gone, and lets nothing broken stand in the way of the rest" do
    fill
    call(:post, "/rule-sets", { name: "Default", **dials })
    of = audience("Of these")
    rule_set = call(:post, "/rule-sets", { name: "Of them", **dials, population: of["id"] })
    export = new_export("To them", of)
    call(:delete, "/rule-sets/#{rule_set["id"]}")
    call(:delete, "/exports/#{export["id"]}")
    call(:delete, "/audiences/#{of["id"]}")
    expect(call(:post, "/rule-sets/#{rule_set["id"]}/restore")["errors"].first["message"]).to include("no audience with the number #{of["id"]}")
    expect(detail(:post, "/exports/#{export["id"]}/restore")).to include("The audience of this export has been deleted.")
    # As an earlier version could leave it: the default rules are about an audience that is gone.
    EstrelServer::RuleSet.update_all(default: false)
    EstrelServer::RuleSet.where(id: rule_set["id"]).update_all(default: true, deleted_at: nil)
    expect(detail(:post, "/analyses/states", {})).to include("The default rule set cannot be used", "no audience with the number")
    working = %w[/people /audiences /rule-sets /rule-set /exports /runs /catalogue /catalogue/survey /workspace /alerts /sources /audiences/starting-points]
    expect(working.to_h { |path| [path, call(:get, path) && last_response.status] }).to eq(working.to_h { |path| [path, 200] })
    everybody = audience("Everybody")
    scheduled = new_export("Every day", everybody)
    EstrelServer::Export.find(scheduled["id"]).update!(next_run_at: 1.day.ago, rules: EstrelServer::Export.find(scheduled["id"]).rules.merge("schedule" => { "every" => "day", "at" => "06:00" }))
    scheduler = EstrelServer::Workers::Scheduler.new
    expect(scheduler.tick).to eq([])
    expect(call(:get, "/workspace/faults")["faults"].map { |row| row.values_at("process", "step") }).to eq([["schedule", "export #{scheduled["id"]}"]])
    call(:put, "/rule-sets/#{call(:get, "/rule-sets")["rule_sets"].find { |row| row["name"] == "Default" }["id"]}", { default: true })
    sleep 0.6
    expect(scheduler.tick.size).to eq(1)
    expect(call(:get, "/workspace/faults")["faults"]).to eq([])
  end
end
