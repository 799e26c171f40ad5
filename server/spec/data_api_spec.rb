# frozen_string_literal: true

require_relative "server_helper"

# Sources, live events, the catalogue, settings, and one person in full.
RSpec.describe "the API of the place Data and of one person" do
  include ApiHelper
  include CollectorHelper

  let(:key) { key_for("app") }

  # Both applications behind one address.
  def app
    @app ||= Rack::URLMap.new("/events" => ->(env) { EstrelServer::Collecting::Application.call(env.merge("PATH_INFO" => "/events", "SCRIPT_NAME" => "")) },
                              "/" => EstrelServer::Application.build)
  end

  def forget_directory = EstrelServer::Workspaces.current.forget(:collecting_directory)

  def collect(*events)
    send_batch(events, key: key).tap { header("Authorization", nil) }
  end

  def type_named(name) = EstrelServer::EventType.find_by!(name: name)

  it "adds sources, shows a key once, rotates and revokes" do
    made = call(:post, "/sources", { name: "web", description: "the shop", allowed_types: ["page_viewed"], events_per_minute: 600 })
    expect([last_response.status, made["key"], made["source"]["keys"].map { |row| row["state"] }]).to match([201, /\Aek_/, ["in use"]])
    id = made["source"]["id"]
    rotated = call(:post, "/sources/#{id}/keys", { overlap_hours: 2 })
    expect(rotated["source"]["keys"].map { |row| row["state"] }).to eq(["ending", "in use"])
    call(:delete, "/sources/#{id}/keys/#{rotated["source"]["keys"].first["id"]}")
    listed = call(:get, "/sources")["sources"].first
    expect(listed["keys"].map { |row| row["state"] }).to eq(["revoked", "in use"])
    expect(listed.to_s).not_to include(made["key"])
    expect(call(:put, "/sources/#{id}", { description: "", allowed_types: nil, events_per_minute: nil })).to include("allowed_types" => nil)
    { { name: "web" } => /taken/, { name: " " } => /must be letters/, { name: "x", events_per_minute: 0 } => /Events per minute/,
      { name: "x", allowed_types: "all" } => /must be a list/ }.each do |body, fault|
      header("Content-Type", "application/json")
      post("/api/sources", JSON.generate(body))
      expect([last_response.status, JSON.parse(last_response.body)["detail"]]).to match([422, fault])
    end
    expect(call(:post, "/sources/#{id}/keys", { overlap_hours: 9999 })).to be_refused(422, /old key still works must be a whole number from 0 to 720/)
  end

  it "lists what arrives, with what was refused and why, filtered, and goes on from a cursor" do
    collect(cloud_event("a"), attributes("b", "customer:1", plan: "monthly"), cloud_event("c", time: nil),
            link("d", "customer:1", "customer:2"), link("e", "visitor:v", "customer:1"), link("g", "visitor:v", "customer:3"),
            cloud_event("h", type: "estrel.consent", data: { "channel" => "sms", "given" => false }))
    rows = call(:get, "/live-events")
    expect(rows["rows"].map { |row| row.values_at("type", "outcome") }).to contain_exactly(
      %w[ride_ended stored], %w[estrel.attributes stored], %w[ride_ended refused], %w[estrel.link refused], %w[estrel.link stored],
      %w[estrel.link stored], %w[estrel.consent stored]
    )
    expect(rows["rows"].filter_map { |row| row["told"] }).to contain_exactly(
      "Linked to customer:1 (identifier added).",
      "Linked to customer:3 (shared device reassigned).", "Consent to SMS withdrawn."
    )
    expect(rows["rows"].find { |row| row["type"] == "estrel.attributes" }).to include("contents" => { "plan" => "monthly" }, "subject" => "customer:1")
    refused = call(:get, "/live-events?outcome=refused&type=ride_ended")["rows"]
    expect(refused).to match([include("reason" => "The time is missing.", "payload" => /"id":"c"/, "source" => "app")])
    expect(call(:get, "/live-events?identifier=customer:1&source=app")["rows"].map { |row| row["type"] }).to include("estrel.attributes", "ride_ended")
    expect(call(:get, "/live-events?source=nowhere")["rows"]).to eq([])
    collect(cloud_event("f"))
    live = call(:get, "/live-events/live?after=#{rows["cursor"]}")
    expect(last_response.headers["content-type"]).to start_with("text/event-stream")
    expect(JSON.parse(live[/^data: (.*)$/, 1])).to match([include("type" => "ride_ended", "profile_id" => EstrelServer::Identifier.find_by(value: "1").profile_id)])
  end

  it "says whether the ledger holds everything, also what came into a tail" do
    up_to_date = -> { call(:get, "/workspace")["data"]["up_to_date"] }
    collect(cloud_event("a"), attributes("b", "customer:1", plan: "monthly"))
    refresh
    expect(up_to_date.call).to be(true)
    collect(cloud_event("c"), attributes("d", "customer:1", plan: "yearly", time: "2026-05-04T10:00:00Z"))
    expect(up_to_date.call).to be(false)
    refresh
    expect(EstrelServer.ledger.current).to be_a(Estrel::Ledger::WithTail)
    expect(up_to_date.call).to be(true)
  end

  it "surveys the catalogue, and reads a misspelt type as another one until that is undone" do
    collect(cloud_event("a"), cloud_event("b", type: "rideEnded", data: { "km" => 2, "dock" => "A" }),
            cloud_event("c", subject: "customer:me@a.example", time: "2026-05-30T10:00:00Z"), attributes("d", "customer:1", plan: "monthly"))
    refresh
    survey = call(:get, "/catalogue/survey")
    expect(survey).to include("customer_ids_like_addresses" => 1)
    expect(survey["event_types"].map { |row| row.values_at("name", "count", "fresh") }).to eq([["rideEnded", 1, false], ["ride_ended", 2, false]])
    expect(survey["attributes"]).to match([include("name" => "plan", "share" => 0.5, "example" => "monthly")])

    count = -> { EstrelServer.ledger.current.catalogue.event_types.transform_values(&:count) }
    id = type_named("rideEnded").id
    call(:put, "/catalogue/types/#{id}", { merged_into: "ride_ended", description: "old app", folder: "Riding" })
    expect(EstrelServer::LedgerBuilding::Builder.new).to be_behind
    refresh
    expect(count.call).to eq("ride_ended" => 3)
    did = { "did" => { "event" => "rideEnded", "where" => [{ "property" => "dock", "compare" => "is", "value" => "A" }] } }
    expect(call(:post, "/audiences/preview", { definition: did })).to include("size" => 1, "sentence" => /ended a ride/)
    detail = call(:get, "/catalogue/types/#{type_named("ride_ended").id}")
    expect(detail["properties"].map { |row| row.values_at("name", "top") }.first).to match(["km", [include("count" => 2), include("count" => 1)]])
    expect(call(:put, "/catalogue/types/#{type_named("ride_ended").id}", { merged_into: "rideEnded" })).to be_refused(422, /Other event types are merged into ride_ended; undo those first/)
    expect(call(:put, "/catalogue/types/#{id}", { merged_into: "rideEnded" })).to be_refused(422, /Merged into cannot be merged into itself/)
    expect(call(:put, "/catalogue/types/#{id}", { merged_into: "nothing" })["detail"]).to match(/no event type/)
    call(:put, "/catalogue/types/#{id}", { merged_into: nil })
    refresh
    expect(count.call).to eq("rideEnded" => 1, "ride_ended" => 2)
    expect(EstrelServer::Event.group(:event_type_id).count.values).to contain_exactly(1, 2)
  end

  it "lets no system message count as activity" do
    collect(cloud_event("a"), cloud_event("b", type: "message_sent"))
    refresh
    expect(call(:get, "/rule-set")["activity"]).to eq(%w[message_sent ride_ended])
    call(:put, "/catalogue/types/#{type_named("ride_ended").id}", { not_activity: true, hidden: true, folder: "System" })
    refresh
    expect(EstrelServer.ledger.current.catalogue.event_types["ride_ended"]).to have_attributes(not_activity: true, hidden: true, folder: "System")
    expect(call(:get, "/rule-set")["activity"]).to eq(%w[message_sent])
    collect(cloud_event("c", subject: "customer:2"), attributes("d", "customer:2", plan: "monthly"))
    refresh
    expect(picture("states", as_of: "2026-05-20")["states"].to_h { |row| row.values_at("state", "count") }).to include("never_active" => 1, "new" => 1)
    expect(call(:put, "/catalogue/attributes/#{EstrelServer::AttributeDefinition.first.id}", { description: "what they pay" })).to include("description" => "what they pay")
  end

  it "changes settings, recomputes, and says what changed" do
    collect(cloud_event("a", time: "2026-05-03T23:30:00Z"), cloud_event("b", time: "2026-05-04T00:10:00Z"))
    refresh
    call(:put, "/rule-set", { activity: ["ride_ended"], new_for: 1, active_within: 2, churned_after: 3 })
    answer = call(:put, "/workspace", { time_zone: "Asia/Tokyo", visit_gap_minutes: 45 })
    expect(answer["changed"].map { |row| row["name"] }).to eq(%w[time_zone visit_gap_minutes])
    expect(answer["effects"].to_h { |row| [row["what"], row.values_at("before", "after")] }).to include("visits in the last 30 days" => [2, 1], "new" => [0, 1], "active" => [1, 0])
    expect(answer["workspace"]).to include("time_zone" => "Asia/Tokyo", "visit_gap_minutes" => 45)
    expect(EstrelServer.ledger.current.events("ride_ended")["day"].to_a.uniq).to eq([Estrel::Calendar.number(Date.new(2026, 5, 4))])
    { { time_zone: "Mars/Base" } => /no time zone/, { visit_gap_minutes: 0 } => /Visit gap/, { visit_gap_minutes: "soon" } => /must be a whole number/,
      { future_tolerance_minutes: -1 } => /Future tolerance/ }.each do |body, fault|
      header("Content-Type", "application/json")
      put("/api/workspace", JSON.generate(body))
      expect([last_response.status, JSON.parse(last_response.body)["detail"]]).to match([422, fault])
    end
    call(:put, "/workspace", { future_tolerance_minutes: 1_000 })
    forget_directory
    expect(collect(cloud_event("soon", time: (Time.now.utc + 50_000).iso8601))["stored"]).to eq(1)
  end

  describe "how long events are kept" do
    let(:retention) { EstrelServer::Workers::EventRetention.new }

    before do
      collect(sent("old", first_of(3) + 1), sent("last", first_of(2) - 1), sent("first", first_of(2)), sent("new", first_of(1)))
      refresh
      sign_in
    end

    def first_of(months_ago) = (Date.today << months_ago).then { |day| Date.new(day.year, day.month, 1) }

    def sent(id, date) = cloud_event(id, subject: "customer:#{id}", time: "#{date.iso8601}T00:00:00Z")

    def kept = EstrelServer.ledger.current.events("ride_ended").join(EstrelServer.ledger.current.profiles, on: "profile_id")["identifier:customer"].to_a.sort

    def change(**body) = raw("PUT", "/workspace", "application/json", JSON.generate(body))

    it "is as long as is said: older ones leave every answer at once, and the store soon" do
      expect(change(kept_months: 2)).to match([422, /permanently deletes all events before/])
      expect([change(kept_months: 0), change(kept_months: "ever")].map(&:first)).to eq([422, 422])
      expect([EstrelServer::Workspace.current.kept_months, kept.size]).to eq([nil, 4])
      answer = call(:put, "/workspace", { kept_months: 2, confirm: "remove old events" })
      expect(answer["workspace"]).to include("kept_months" => 2, "events_from" => first_of(2).iso8601)
      expect(answer["changed"]).to eq([{ "name" => "kept_months", "before" => nil, "after" => 2 }])
      expect([kept, EstrelServer::Event.count]).to eq([%w[first new], 4])
      expect([retention.carry_out, retention.carry_out, EstrelServer::Event.pluck(:event_key).sort]).to eq([2, 0, %w[first new]])
      expect(EstrelServer::AuditEntry.last.about).to eq("2 that occurred before #{first_of(2).iso8601}")
      expect([refresh["event_count"], kept]).to eq([2, %w[first new]])
      EstrelServer::Workspace.current.update!(events_from: first_of(3)) # as it was a month ago
      expect([retention.carry_out, EstrelServer::Workspace.current.events_from]).to eq([0, first_of(2)])
    end

    it "forgets what was noted of changes of attributes that came before, which say nothing new when they come again" do
      early = attributes("a", "customer:new", time: "2020-01-01T00:00:00Z", plan: "monthly")
      collect(early)
      EstrelServer::Receipt.update_all(received_at: first_of(2) - 1)
      collect(attributes("b", "customer:new", plan: "yearly"))
      call(:put, "/workspace", { kept_months: 2, confirm: "remove old events" })
      retention.carry_out
      expect(EstrelServer::Receipt.pluck(:event_key)).to eq(["b"])
      collect(early)
      expect(EstrelServer::AttributeValue.count).to eq(2)
    end

    it "has older ones refused when they come late, however they come, until all are kept again" do
      call(:put, "/workspace", { kept_months: 2, confirm: "remove old events" })
      forget_directory
      expect(collect(sent("late", first_of(2) - 1), sent("just", first_of(2)))).to include("stored" => 1, "refused" => 1)
      lines = [first_of(2) - 1, first_of(2), first_of(4)].map { |date| event("f#{date}", time: "#{date.iso8601}T12:00:00Z") }
      reason = ->(date) { "The time #{date.iso8601}T12:00:00Z is older than the retention period." }
      # Read together, and one by one.
      [{}, { "ignore" => ["nothing"] }].each { |mapping| expect(reasons(import(lines.join("\n"), mapping: mapping))).to eq([[1, reason.call(first_of(2) - 1)], [3, reason.call(first_of(4))]]) }
      told = ->(year) { attributes("a#{year}", "customer:new", time: "#{year}-01-01T00:00:00Z", plan: "monthly #{year}") }
      expect([collect(told.call(2019))["stored"], import(JSON.generate(told.call(2020))).stored]).to eq([1, 1])
      call(:put, "/workspace", { kept_months: nil })
      forget_directory
      expect(collect(sent("late", first_of(2) - 1))).to include("stored" => 1)
      refresh
      expect([kept, retention.carry_out]).to eq([%w[1 first just last late new old], 0])
    end
  end

  it "finds people by profile type and by what they are and did" do
    collect(cloud_event("a"), cloud_event("b", subject: "visitor:v"), attributes("c", "email:a@b.example", plan: "monthly"))
    refresh
    definition = URI.encode_www_form(definition: JSON.generate({ "all" => [{ "attribute" => { "name" => "plan", "compare" => "is", "value" => "monthly" } }] }))
    expect(call(:get, "/people?#{definition}")["rows"].map { |row| row["profile_type"] }).to eq(%w[contact])
    expect(call(:get, "/people?profile_type=visitor")["total"]).to eq(1)
    expect(call(:get, "/people?profile_type=alien")).to be_refused(422, /"Profile type" must be one of visitor, contact, customer, not "alien"/)
    expect(call(:get, "/people?definition=%7B")).to be_refused(422, /invalid JSON/)
  end

  it "tells of one person everything: visits, consent, who the two were before, and follows old addresses" do
    minutes = [0, 30, 61, 70]
    rides = minutes.map { |minute| cloud_event("r#{minute}", subject: "visitor:v", time: (Time.utc(2026, 5, 3, 10) + (minute * 60)).iso8601) }
    collect(*rides, attributes("1", "customer:1", plan: "monthly"), cloud_event("2", type: "estrel.consent", data: { "channel" => "sms", "given" => true, "evidence" => "form" }))
    visitor = EstrelServer::Identifier.find_by(value: "v").profile_id
    collect(link("3", "visitor:v", "customer:1"), link("4", "visitor:v", "customer:2"))
    refresh
    one = call(:get, "/people/#{visitor}")
    expect(one).to include("id" => EstrelServer::Identifier.find_by(value: "1").profile_id)
    expect(one["merges"]).to match([include("from" => include("identifiers" => [include("value" => "v")]), "into" => include("attributes" => { "plan" => "monthly" }))])
    expect(one["moves"]).to match([include("identifier" => "visitor:v", "direction" => "went")])
    expect(one["consents"]).to match([include("channel" => "sms", "given" => true, "evidence" => "form", "source" => "app")])
    expect(one["event_types"]).to match([include("name" => "ride_ended", "count" => 4, "first" => "2026-05-03T10:00:00.000000Z")])
    timeline = call(:get, "/people/#{one["id"]}/events")
    expect(timeline["rows"].map { |row| row["visit"] }).to eq([2, 2, 1, 1])
    expect(timeline["visits"].map { |row| row.values_at("number", "count", "seconds") }).to eq([[2, 2, 540], [1, 2, 1800]])
    expect(call(:get, "/people/#{one["id"]}/events?until=2026-05-02")["total"]).to eq(0)
    everything = call(:get, "/people/#{one["id"]}/everything.json")
    expect(everything["events"].size).to eq(4)
  end

  it "erases a person, leaves no trace of the identifiers, and lets nobody bring them back" do
    collect(cloud_event("a"), cloud_event("b", subject: "visitor:v-17"), link("c", "visitor:v-17", "customer:1"),
            attributes("d", "customer:1", plan: "monthly"), cloud_event("e", type: "estrel.consent", data: { "channel" => "sms", "given" => true }),
            cloud_event("f", subject: "visitor:v-17", time: nil), cloud_event("g", subject: "customer:2"))
    import([event("x", subject: "visitor:v-17", time: "never")].join("\n"))
    refresh
    id = EstrelServer::Identifier.find_by(value: "1").profile_id
    expect(call(:post, "/people/#{id}/erase", { confirm: "yes", reason: "asked" })).to be_refused(422, /erase this person/)
    expect(call(:post, "/people/#{id}/erase", { confirm: "erase this person", reason: " " })).to be_refused(422, /Enter a reason/)
    removed = call(:post, "/people/#{id}/erase", { confirm: "erase this person", reason: "asked by letter" })["removed"]
    expect(removed).to include("events" => 2, "identifiers" => 2, "attribute_values" => 1, "consents" => 1)
    refresh
    expect(EstrelServer.ledger.current.events("ride_ended").height).to eq(1)
    expect(call(:get, "/people/#{id}")).to be_refused(404, /not found/i)
    tables = EstrelServer::Record.connection.tables - %w[delayed_jobs schema_migrations ar_internal_metadata]
    dump = tables.map { |table| EstrelServer::Record.connection.select_rows("SELECT * FROM #{table}").to_s }.join
    expect(dump).not_to include("v-17")
    again = collect(cloud_event("a"), link("c", "visitor:v-17", "customer:2"), attributes("d", "customer:1", plan: "monthly"), cloud_event("h", subject: "customer:2"))
    expect(outcomes(again)).to eq(%w[refused refused refused stored])
    expect(reasons(import(event("y", subject: "visitor:v-17")))).to match([[1, /erased on request/]])
    expect(import("customer,plan\n1,monthly\n", kind: "profiles").rejected).to eq(1)
    EstrelServer::LedgerBuilding::Builder.new.refresh(rebuild: true)
    expect(EstrelServer.ledger.current.base_size).to eq(1)
  end

  it "erases every spelling of the identifiers, no rows of others, and names what users wrote about the person" do
    collect(link("l", "customer:1", "email:p14@mail.example"), link("m", "customer:1", "phone:+351900000001"), cloud_event("o", subject: "customer:2"))
    import("customer,when,note,n\n1,never,a,7\n2,never,b,1\n3,never, P14@Mail.Example ,1\n4,never,\"tel +351 (900) 000-001\",1\n11,never,c,1\n", mapping: { "columns" => { "time" => "when", "identifier.customer" => "customer" }, "constants" => { "type" => "call" }, "time_format" => "iso8601" }, name: "calls.csv")
    collect(cloud_event("p", subject: "email:P14@MAIL.example", time: nil), cloud_event("q", subject: "customer:1", time: nil), cloud_event("r", subject: "customer:12", time: nil, data: { "n" => 1 }))
    import([event("x", subject: "customer:1", time: "never"), event("y", subject: "customer:11", time: "never", data: { "km" => 1 })].join("\n"), mapping: { "time_format" => "iso8601" })
    refresh
    call(:post, "/annotations", { date: "2026-05-03", text: "p14@mail.example called" })
    call(:post, "/annotations", { date: "2026-05-04", text: "1 kiosk closed" })
    call(:post, "/audiences", { name: "Picked", definition: { listed: { by: "customer", values: %w[1 5] } } })
    call(:post, "/audiences", { name: "Others", definition: { listed: { by: "customer", values: %w[11] } } })
    id = EstrelServer::Identifier.find_by(value: "p14@mail.example").profile_id
    erased = call(:post, "/people/#{id}/erase", { confirm: "erase this person", reason: "asked" })
    expect(erased["remarks"].map { |row| row.values_at("kind", "title") }).to contain_exactly(["note", "3 May 2026"], %w[audience Picked])
    expect(EstrelServer::Reject.order(:id).pluck(:original)).to match([/\A2,/, /\A11,/, /customer:11/])
    expect(EstrelServer::Refusal.pluck(:subject)).to eq(["customer:12"])
  end
end
