# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::API::LifecycleEndpoint do
  include ApiHelper
  include CollectorHelper

  def rules(**changes) = { activity: ["ride_ended"], new_for: 7, active_within: 10, churned_after: 20, **changes }

  def size(definition, **more) = call(:post, "/audiences/preview", { definition: definition, **more })["size"]

  def table(rows) = rows.sum(&:sum)

  def forget_directory = EstrelServer::Workspaces.current.forget(:collecting_directory)

  # Both applications behind one address.
  def app
    @app ||= Rack::URLMap.new("/events" => ->(env) { EstrelServer::Collecting::Application.call(env.merge("PATH_INFO" => "/events", "SCRIPT_NAME" => "")) },
                              "/" => EstrelServer::Application.build)
  end

  context "with riders who rode every fifth day" do
    before do
      fill
      call(:put, "/rule-set", rules)
    end

    it "tells states, movements, groups and activity, which agree with each other and with audiences" do
      base = picture("states", as_of: "2026-06-20", from: "2026-05-01", step: "week", compare_with: "previous")
      expect(base["dates"].first(2) + base["dates"].last(1)).to eq(%w[2026-05-03 2026-05-10 2026-06-20])
      expect(base["periods"].map { |row| row["complete"] }).to eq([*[true] * 7, false])
      states = base["states"].to_h { |row| row.values_at("state", "count") }
      expect(states.values.sum).to eq(base["people"])
      base["counts"]["active"].zip(base["counts"]["new"], base["dates"]).each do |active, fresh, date|
        expect(size({ "lifecycle" => { "is" => %w[new active] } }, as_of: date)).to eq(active + fresh)
      end
      period = base["periods"].find { |row| row["lapsed"].positive? }
      lapsed = { "all" => [{ "lifecycle" => { "is" => %w[dormant churned] } }, { "lifecycle" => { "is" => %w[new active], "on" => (Date.parse(period["from"]) - 1).iso8601 } }] }
      expect(size(lapsed, as_of: period["to"])).to eq(period["lapsed"])
      expect(base["dormant"]["spans"].sum { |span| span["people"] }).to eq(states["dormant"])
      between = picture("state-movement", from: "2026-05-05", as_of: "2026-05-31")
      expect(table(between["table"])).to eq(6)
      groups = picture("states-by-group", as_of: "2026-06-20", from: "2026-05-01", step: "week", by: { attribute: "plan" })
      expect(groups["rows"].map { |row| row.values_at("kind", "value", "people") }).to eq([["value", "monthly", 1], ["not_set", nil, 5]])
      expect(groups["rows"].sum { |row| row["states"]["churned"] }).to eq(states["churned"])
      activity = picture("activity", as_of: "2026-05-31", from: "2026-05-01", step: "day")
      # The fifth rode last on 26 May, the sixth on 31 May.
      expect(activity["trailing"]["7"].last).to eq(2)
      expect(activity["trailing"]["total"].last).to eq(6)
      expect(activity["stickiness"]["distribution"].first(6).sum).to eq(activity["stickiness"]["people"])
    end

    it "helps to choose thresholds, tests them on history, and tells one person's way" do
      found = picture("thresholds", as_of: "2026-06-20", horizon: 5, share: 0.2)
      expect(found).to include("gaps" => 27, "longest" => 45, "at_churned" => 0.0)
      # Six people are too few to suggest anything by.
      expect(found["suggested"]["churned_after"]).to be_nil
      expect(found["reactivation"].assoc(5).drop(1)).to match([0.0, 0.0, be_between(0.3, 0.5)])
      hasty = picture("thresholds", as_of: "2026-06-20", horizon: 5, share: 0.2, active_within: 1, churned_after: 4)
      expect(hasty["warnings"].first).to match(/Churn threshold too short: .* are reactivated within 5 days \(95% CI \d\d% to \d\d%\); your limit is 20%/)
      backtest = picture("backtest", as_of: "2026-06-20", weeks: 8, active_within: 1, churned_after: 4)
      expect(backtest["rows"].size).to eq(8)
      expect(backtest["rows"].last["back"]).to eq({ "30" => nil, "60" => nil, "90" => nil })
      id = call(:get, "/people?search=customer:1")["rows"].first["id"]
      way = call(:get, "/people/#{id}/lifecycle?as_of=2026-05-12")
      expect(way["stretches"].map { |row| row["state"] }).to eq(%w[new active])
      expect(way).to include("spells" => 1, "reactivations" => 0, "longest_gap" => 6, "revised" => [include("then" => "never_active"), include("now" => "active")])
      expect(way["next"]).to eq({ "state" => "dormant", "on" => "2026-05-16" })
    end

    it "keeps rule sets in versions, shows an effect before it is made, and refuses what cannot be" do
      many = call(:post, "/audiences", { name: "Many", definition: { "did" => { "event" => "ride_ended", "count" => { "at_least" => 4 } } } })["id"]
      riders = call(:get, "/rule-set")
      buyers = call(:post, "/rule-sets", { name: "Far riders", **rules(population: many, activity: [{ event: "ride_ended", where: [{ property: "km", compare: "at_least", value: 5 }] }]) })
      expect(buyers).to include("version" => 1, "default" => false, "population_name" => "Many")
      expect(picture("states", as_of: "2026-05-31", rule_set: buyers["id"])["people"]).to eq(4)
      effect = picture("rules-effect", tried: rules(active_within: 2), as_of: "2026-05-31")
      changed = { "all" => [{ "lifecycle" => { "is" => ["active"] } }, { "lifecycle" => { "is" => ["dormant"], "rule_set" => { "rules" => effect["rules"] } } }] }
      expect(effect["table"][2][3]).to eq(size(changed, as_of: "2026-05-31")).and be_positive
      named = { "lifecycle" => { "is" => ["churned"], "rule_set" => { "id" => buyers["id"], "version" => 1 } } }
      user = call(:post, "/audiences", { name: "Far and gone", definition: named })
      expect(user["sentence"]).to eq("People who are churned as “Far riders” version 1")
      expect(call(:delete, "/rule-sets/#{buyers["id"]}")).to include("status" => 409, "errors" => [include("place" => "Far and gone")])
      expect(call(:delete, "/rule-sets/#{riders["id"]}")).to be_refused(409, /default rule set cannot be deleted/)
      expect(call(:put, "/rule-sets/#{buyers["id"]}", { **rules(churned_after: 30) })).to include("version" => 2)
      expect(call(:get, "/rule-sets/#{buyers["id"]}")["versions"].map { |row| row["number"] }).to eq([2, 1])
      expect(call(:put, "/rule-sets/#{buyers["id"]}", { name: "Late", updated_at: buyers["updated_at"] })).to be_refused(409, /Someone else changed this rule set; it is now version 2/)
    end

    it "refuses rule sets that are defined by themselves, and rules that make no sense" do
      many = call(:post, "/audiences", { name: "Many", definition: { "did" => { "event" => "ride_ended", "count" => { "at_least" => 4 } } } })["id"]
      buyers = call(:post, "/rule-sets", { name: "Far riders", **rules })
      user = call(:post, "/audiences", { name: "Far and gone", definition: { "lifecycle" => { "is" => ["churned"], "rule_set" => { "id" => buyers["id"] } } } })
      ring = call(:put, "/rule-sets/#{buyers["id"]}", { **rules(population: user["id"]) })
      expect(ring).to include("status" => 422)
      about = call(:post, "/rule-sets", { name: "Of many", **rules(population: many) })
      expect(call(:delete, "/audiences/#{many}")["errors"]).to eq([{ "place" => "Of many", "message" => "a rule set about it" }])
      call(:delete, "/rule-sets/#{about["id"]}")
      expect(ring["errors"].first["message"]).to include("these rule sets refer to each other in a circle: Far riders → Far riders")
      state = call(:post, "/audiences", { name: "Gone", definition: { "lifecycle" => { "is" => ["churned"] } } })["id"]
      expect(call(:post, "/rule-sets", { name: "x", **rules(population: state) })["errors"].first["message"]).to include("choose a rule set in that lifecycle condition")
      expect(call(:delete, "/audiences/#{many}")["deleted"]).to be(true)
      call(:put, "/rule-sets/#{buyers["id"]}", { default: true })
      expect(call(:get, "/rule-set")).to include("name" => "Far riders", "default" => true)
      [[{ active_within: 20 }, /churned must start later than dormant/], [{ new_for: 0 }, /whole number/], [{ churned_after: 20.5 }, /whole number/], [{ activity: [] }, /at least one/],
       [{ activity: ["rdie_ended"] }, /no event type "rdie_ended"; did you mean/], [{ population: 99 }, /no audience/]].each do |change, message|
        expect(call(:post, "/rule-sets", { name: "y", **rules, **change })["errors"].first["message"]).to match(message)
      end
    end

    it "refuses ranges, splits and shares that make no sense, and begins with the first event" do
      wrong = [["states", { from: "2026-07-01" }, /range ends/], ["states", { step: "hour" }, /Step.{2} must be one of/], ["states", { compare_with: "never" }, /Compare with.{2} must be one of/],
               ["state-movement", { from: "2026-06-20" }, /later date/], ["states-by-group", { by: "plan" }, /By.{2} must be/],
               ["thresholds", { share: 2 }, /Share.{2} must be a number from/], ["thresholds", { active_within: 0 }, /Active within.{2} must be/], ["thresholds", { active_within: 30 }, /churned must start later than dormant/],
               ["backtest", { weeks: 0 }, /Weeks.{2} must be/], ["states", { wheels: 2 }, /Wheels.{2} is not a known field/], ["rules-effect", { tried: rules(activity: ["rdie"]) }, /no event type/]]
      wrong.each { |name, question, message| expect([name, analyse(name, as_of: "2026-06-20", **question).then { |told| [told["status"], JSON.generate(told)] }]).to match([name, [422, message]]) }
      expect(analyse("states", rule_set: 77)).to be_refused(404, /not found/i)
      long = analyse("states", from: "1900-01-01", as_of: "2026-06-20", step: "day")
      expect([long["picture"]["dates"].values_at(0, -1), long["picture"]["dates"].size, long["caveats"]]).to match([%w[2026-05-01 2026-06-20], 51, ["The data begins on 1 May 2026, after the start of the range."]])
      after = picture("states", from: "2026-07-01", as_of: "2026-09-30", step: "week")
      expect(after["periods"].sum { |row| row["joined"] + row["reactivated"] }).to eq(0)
      expect(after["states"].to_h { |row| row.values_at("state", "count") }).to include("churned" => 6, "active" => 0)
      compared = picture("states", from: "2026-06-08", as_of: "2026-06-21", step: "week", compare_with: "previous")
      earlier = picture("states", from: "2026-05-25", as_of: "2026-06-07", step: "week")
      # Activity begins on 1 May, and churned is who has been inactive for 20 days.
      too_early = analyse("states", from: "2026-05-11", as_of: "2026-05-24", step: "week", compare_with: "previous")
      expect([too_early["picture"]["compared"], too_early["caveats"]]).to match([nil, include(/No comparison: activity starts on 1 May 2026/)])
      expect(analyse("state-movement", from: "2026-05-20", as_of: "2026-06-20")["finding"]).to match(/\ANo finding: activity starts on 1 May 2026/)
      expect(compared["compared"]).to eq({ "to" => "2026-06-07", "alive" => earlier["counts"]["new"].zip(earlier["counts"]["active"]).map(&:sum) })
      before = analyse("states", from: "2020-01-01", as_of: "2020-03-01", step: "month")
      expect([before["picture"]["people"], before["finding"]]).to eq([0, "Nobody had been seen by 1 Mar 2020."])
    end

    it "counts nobody as active where the only type that counts is marked as no activity" do
      call(:put, "/catalogue/types/#{EstrelServer::EventType.find_by!(name: "ride_ended").id}", { not_activity: true })
      refresh
      from = { from: "2026-05-01" }
      by = { by: { attribute: "plan" } }
      { "states" => from, "states-by-group" => { **from, **by }, "state-movement" => from, "activity" => from, "thresholds" => by, "backtest" => {}, "revisions" => from,
        "campaign-results" => {} }.each do |name, question|
        analyse(name, as_of: "2026-06-20", **question)
        expect([name, last_response.status]).to eq([name, 200])
      end
      ["/people/1/lifecycle?as_of=2026-06-20", "/people?as_of=2026-06-20"].each do |path|
        call(:get, path)
        expect([path, last_response.status]).to eq([path, 200])
      end
      expect(picture("states", as_of: "2026-06-20")["states"].to_h { |row| row.values_at("state", "count") }.reject { |_, count| count.zero? }).to be_empty.or eq({ "never_active" => 6 })
    end

    it "alert_rules conditions and tells once a day" do
      alert_rule = call(:post, "/alert-rules", { kind: "dormant_grew", settings: { "share" => 0.5, "days" => 12 } })
      expect(alert_rule["said"]).to eq("dormant grew by 50% or more within 12 days")
      # So long as the data has only begun, nothing is compared with it.
      EstrelServer::Workers::Alerting.new(EstrelServer.ledger.current).run
      expect(call(:get, "/alerts")["alerts"]).to eq([])
      import([event("long-ago", subject: "customer:9", time: "2026-03-01T10:00:00Z")].join("\n"))
      refresh
      2.times { EstrelServer::Workers::Alerting.new(EstrelServer.ledger.current).run }
      # On 31 May two had been inactive for 10 to 19 days, twelve days before one.
      alerts = call(:get, "/alerts")
      expect(alerts["alerts"].map { |row| row["text"] }).to match([a_string_starting_with("Dormant grew by ")])
      expect(alerts["unread"]).to eq(1)
      expect(call(:post, "/alerts/read")["unread"]).to eq(0)
      expect(call(:post, "/alert-rules", { kind: "rain" })["detail"]).to match(/An alert must be one of/)
      expect(call(:post, "/alert-rules", { kind: "reactivation_above", settings: { "share" => 2 } })["detail"]).to match(/"Share" must be a number from/)
      expect(call(:delete, "/alert-rules/#{alert_rule["id"]}")).to eq({ "deleted" => true })
      expect(call(:get, "/alerts")["alerts"]).to eq([])
    end
  end

  it "counts devices by the visitor identifier each event came by, however it came in" do
    columns = { "columns" => { "time" => "when", "type" => "what", "identifier.customer" => "customer", "identifier.visitor" => "device" } }
    import("when,what,customer,device\n2026-05-03T10:00:00Z,ride_ended,7,phone\n2026-05-03T11:00:00Z,ride_ended,7,\n2026-05-04T10:00:00Z,ride_ended,,phone\n", mapping: columns)
    import([event("a", subject: "visitor:phone", time: "2026-05-05T10:00:00Z"), event("b", subject: "visitor:desk", time: "2026-05-05T10:00:00Z")].join("\n"))
    # Two devices of one customer, one of which another customer uses as well.
    from = { "source" => "phones" }
    key = key_for("phones")
    expect(outcomes(send_batch([cloud_event("1", subject: "visitor:tablet", time: "2026-05-06T10:00:00Z", **from), link("2", "visitor:tablet", "customer:7", **from), link("3", "visitor:tablet", "customer:8", **from),
                                cloud_event("4", subject: "visitor:tablet", time: "2026-05-06T11:00:00Z", **from), link("5", "visitor:desk", "customer:7", **from)], key: key)).uniq).to eq(["stored"])
    header("Authorization", nil)
    refresh
    call(:put, "/rule-set", rules)
    activity = picture("activity", as_of: "2026-05-06", from: "2026-05-03", step: "day")
    expect(activity["devices"]).to include("1" => [1, 1, 2, 1], "7" => [1, 1, 2, 3], "total" => [1, 1, 2, 3])
    expect(activity["trailing"]).to include("1" => [1, 1, 2, 2], "7" => [1, 2, 2, 3])
  end

  it "says by how much the past has changed, and why: late events, people found to be one, catalogue and rule set" do
    key = key_for("app")
    send_now = ->(*messages) { outcomes(send_batch(messages, key: key)).tap { header("Authorization", nil) } }
    today = EstrelServer::Workspace.current.calendar.day_of(Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond))
    ago = ->(days) { "#{(today - days).iso8601}T09:00:00Z" }
    send_now.call(cloud_event("1", subject: "customer:1", time: ago.call(30)), cloud_event("2", subject: "customer:1", time: ago.call(20)),
                  cloud_event("3", subject: "visitor:v", time: ago.call(30)), cloud_event("4", subject: "customer:2", time: ago.call(30), type: "rode"))
    # As if received the day it happened, but for the second, which came ten days late.
    EstrelServer::Event.update_all("received_at = occurred_at")
    EstrelServer::Event.where(event_key: "2").update_all(received_at: ago.call(9))
    refresh
    call(:put, "/rule-set", { **rules(activity: %w[ride_ended]) })
    send_now.call(link("5", "visitor:v", "customer:1"))
    id = EstrelServer::EventType.find_by(name: "rode").id
    call(:put, "/catalogue/types/#{id}", { merged_into: "ride_ended" })
    refresh
    revisions = picture("revisions", from: (today - 28).iso8601)
    row = revisions["rows"].last(2).first
    totals = row["causes"].transform_values { |states| states.values.sum }
    expect(totals).to eq("late" => 0, "merged" => -1, "catalogue" => 1, "rule_set" => 0)
    expect(revisions["sources"].first).to include("source" => "app", "late" => 1, "median_days" => 11.0)
    expect(revisions["changes"].map { |change| change["what"] }).to eq(["“rode” was changed in the catalogue"])
    expect(EstrelServer.ledger.current.origins.rows.size).to eq(2)
  end
end
