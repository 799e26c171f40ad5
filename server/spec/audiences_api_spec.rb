# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::API::AudiencesEndpoint do
  include ApiHelper

  def rides(at_least, **more) = { "all" => [{ "did" => { "event" => "ride_ended", "count" => { "at_least" => at_least }, **more } }] }

  def keep(name, definition, **more) = call(:post, "/audiences", { name: name, definition: definition, **more })["id"]

  def person(number) = call(:get, "/people?search=customer:#{number}")["rows"].first["id"]

  before { fill }

  it "says why somebody is in or out, and since when she has been in" do
    out = call(:post, "/audiences/why", { definition: rides(5), person: person(3) })
    expect(out).to include("member" => false, "nearest" => "all[0]")
    expect(out["verdicts"].first).to include("said" => "who ended a ride at least 5 times at any time", "holds" => false, "nearness" => 0.8,
                                             "found" => "ended a ride 4 times at any time", "asked" => "at least 5 times")
    expect(out["verdicts"].first["facts"].first).to eq({ "what" => "ended a ride", "at" => "2026-05-16T10:00:00.000000Z", "whole_day" => false })
    many = keep("Many", rides(5))
    keep("Of many", { "all" => [{ "audience" => { "id" => many } }] })
    inside = call(:post, "/audiences/why", { definition: { "all" => [{ "audience" => { "id" => many } }] }, person: person(4) })
    expect(inside["verdicts"].first["conditions"].first).to include("holds" => true)
    expect(call(:get, "/people/#{person(4)}/audiences")["audiences"].map { |row| row.values_at("name", "member") }).to eq([["Many", true], ["Of many", true]])
    # The fifth ride was on 21 May.
    expect(call(:get, "/people/#{person(4)}/audiences/#{many}")).to include("member" => true, "since" => "2026-05-21")
    expect(call(:get, "/people/#{person(1)}/audiences/#{many}")).to include("member" => false, "since" => nil)
    expect(call(:post, "/audiences/why", { definition: rides(1), person: 999 })).to be_refused(404, /not found/i)
    expect(call(:post, "/audiences/why", { definition: rides(1), person: "me" })).to be_refused(422, /"Person" must be a whole number, not "me"/)
  end

  it "tells who came and went between two dates, and lets that be an audience" do
    recent = rides(1, "window" => { "last_days" => 5 })
    moved = call(:post, "/audiences/movement", { definition: recent, from: "2026-05-15", as_of: "2026-05-20" })
    # 11 to 15 May: 2 … 6 rode on the 11th. 16 to 20 May: 3 … 6 rode on the 16th.
    expect(moved).to include("before" => 5, "after" => 4, "stayed" => 4)
    expect(moved["left"]["people"].map { |row| row["identifiers"].first["value"] }).to eq(["2"])
    expect(moved["left"]["conditions"]).to eq([{ "place" => "all[0]", "said" => "who ended a ride at least once in the last 5 days", "count" => 1 }])
    kept = keep("Recent", recent)
    gone = { "all" => [{ "audience" => { "id" => kept, "on" => "2026-05-15" } }, { "not" => { "audience" => { "id" => kept } } }] }
    expect(call(:post, "/audiences/preview", { definition: gone, as_of: "2026-05-20" })).to include("size" => 1)
    expect(call(:post, "/audiences/movement", { definition: recent, from: "2026-05-20", as_of: "2026-05-20" })).to be_refused(422, /start date must be before/)
  end

  it "answers using data received by a date" do
    # Everything was received at import, that is today; nothing was known before.
    early = call(:post, "/audiences/preview", { definition: rides(1), received_by: "2026-06-01" })
    expect(early).to include("size" => 0, "base" => 0, "received_by" => "2026-06-01")
    expect(picture("states", received_by: "2026-06-01")["people"]).to eq(0)
    expect(call(:get, "/people?received_by=2026-06-01")["total"]).to eq(0)
  end

  it "files, notes, counts the users of an audience, and does not write over somebody else's change" do
    many = keep("Many", rides(5), folder: "Riders", note: "for May")
    keep("Few", { "not" => { "audience" => { "id" => many } } })
    expect(call(:get, "/audiences")["audiences"].find { |row| row["id"] == many }).to include("folder" => "Riders", "note" => "for May", "uses" => 1)
    started = call(:get, "/audiences/#{many}")["updated_at"]
    expect(call(:put, "/audiences/#{many}", { definition: rides(4), updated_at: started })["version"]).to eq(2)
    expect(call(:get, "/audiences/#{many}/versions")["versions"].map { |row| row["author"] }).to eq(["administrator@estrel.example"] * 2)
    late = call(:put, "/audiences/#{many}", { note: "for June", updated_at: started })
    expect(late).to include("status" => 409, "detail" => "Someone else changed this audience; it is now version 2.")
    expect(call(:get, "/audiences/#{many}/versions")["versions"].map { |row| row["conditions"] })
      .to eq([["who ended a ride at least 4 times at any time"], ["who ended a ride at least 5 times at any time"]])
    expect(call(:put, "/audiences/#{many}", { folder: "x" * 101 })).to be_refused(422, /"Folder" must be text of at most 100 characters/)
  end

  it "refuses names that are invisible or turn the text after them, and takes those of every script" do
    ["\u200B", "Ri\u200Bders", "\u202Esredir", "a\u2066b", "\uFEFFRiders", "\u3164", "two\nlines", " \u200D "].each do |name|
      expect(call(:post, "/audiences", { name: name, definition: rides(1) })).to be_refused(422, /invisible characters/), name.dump
    end
    ["راكبو الدراجات", "می\u200Cخواهم", "👩\u200D👩\u200D👧", "Fahrgäste – 2", "רוכבים"].each { |name| expect(keep(name, rides(1))).to be_an(Integer), name.dump }
    old = EstrelServer::Audience.first
    old.update_columns(name: "before\u200B")
    expect(call(:put, "/audiences/#{old.id}", { note: "kept from before" })["note"]).to eq("kept from before")
  end

  it "offers starting points that fit the data, each with its size" do
    call(:put, "/rule-set", { activity: ["ride_ended"], new_for: 7, active_within: 14, churned_after: 60 })
    points = call(:get, "/audiences/starting-points?as_of=2026-05-31")["starting_points"]
    expect(points.map { |row| row["name"] }).to include("About to go dormant", "Every week for a month", "Heavy users without a reachable channel")
    points.each { |row| expect(call(:post, "/audiences/preview", { definition: row["definition"], as_of: "2026-05-31" })["size"]).to eq(row["size"]) }
  end

  it "answers overlap and breakdown of kept audiences" do
    many = keep("Many", rides(4))
    few = keep("Few", { "not" => rides(6) })
    overlap = picture("overlap", audiences: [many, few], by: { "attribute" => "plan" })
    # At least 4 rides: 3 4 5 6. Fewer than 6: 1 2 3 4.
    expect(overlap["regions"].to_h { |row| row.values_at("inside", "count") }).to eq([0] => 2, [1] => 2, [0, 1] => 2)
    expect(overlap["columns"]).to eq([{ "kind" => "value", "value" => "monthly" }, { "kind" => "not_set", "value" => nil }])
    broken = picture("breakdown", audiences: [many, few], by: { "attribute" => "plan" })
    expect(broken["rows"].map { |row| row.values_at("kind", "counts") }).to eq([["value", [0, 1]], ["not_set", [4, 3]]])
    expect(broken["rows"].first["difference"]["estimate"]).to eq(0.25)
    expect(picture("breakdown", audiences: [], by: { "state" => true })["totals"]).to eq([6])
    expect(call(:get, "/people?compare=#{many},#{few}&search=customer:3")["rows"].first["in"]).to eq([0, 1])
    expect(picture("states-by-group", as_of: "2026-05-31", audiences: [many])["rows"].first["states"].values.sum).to eq(4)
    [[:overlap, { audiences: [many] }], [:overlap, { audiences: [many, 9999] }], [:breakdown, { audiences: [many] }], [:overlap, { audiences: [many, many] }],
     [:breakdown, { audiences: [many], by: { "attribute" => "plam" } }], [:breakdown, { audiences: [many], by: { "kind" => true }, top: 0 }]]
      .each { |study, body| expect(call(:post, "/analyses/#{study}", body)["status"]).to be_between(400, 499), body.to_s }
  end

  it "gives a question up when whoever asked it has gone away" do
    sign_in
    header("Host", "127.0.0.1:4270")
    here, there = Socket.pair(:UNIX, :STREAM)
    body = JSON.generate({ definition: rides(2) })
    asked = -> { post("/api/audiences/preview", body, "puma.socket" => here, "CONTENT_TYPE" => "application/json") }
    expect(asked.call.status).to eq(200)
    EstrelServer::LedgerBuilding::Builder.new.refresh(rebuild: true) # nothing is remembered any more
    there.close
    expect([asked.call.status, JSON.parse(last_response.body)["detail"]]).to eq([422, "Cancelled."])
  end

  it "refuses what makes no sense with a message at its place, and takes what only looks odd" do
    gone = keep("Gone", rides(1))
    call(:delete, "/audiences/#{gone}")
    { rides(1, "window" => { "from" => "2026-05-09", "to" => "2026-05-01" }) => /ends .* before it starts/,
      rides(1).merge("all" => [{ "did" => { "event" => "ride_ended", "count" => { "between" => [5, 2] } } }]) => /lower limit \(5\) is greater than the upper limit/,
      { "attribute" => { "name" => "plan", "compare" => "greater", "value" => 3 } } => /is text; compare it by is/,
      { "did" => { "event" => "ride_endet" } } => /did you mean "ride_ended"/,
      { "audience" => { "id" => gone } } => /no audience with the number/,
      { "all" => Array.new(501) { rides(1) } } => /500|at most|many/ }.each do |json, message|
      expect(call(:post, "/audiences/preview", { definition: json })).to be_refused(422, message)
    end
    equal = { "did" => { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "between", "value" => [3, 3] }] } }
    expect(call(:post, "/audiences/preview", { definition: equal })["size"]).to eq(1)
    contradiction = { "all" => [rides(6), { "not" => rides(6) }] }
    expect(call(:post, "/audiences/preview", { definition: contradiction })).to include("size" => 0, "emptied_by" => 1)
    markup = { "attribute" => { "name" => "plan", "compare" => "is", "value" => "<b>\"'&" } }
    expect(call(:post, "/audiences/preview", { definition: markup })).to include("size" => 0, "sentence" => "People whose plan is <b>\"'&")
    huge = { "all" => Array.new(500) { |index| rides(index + 1)["all"].first } }
    expect(call(:post, "/audiences/preview", { definition: huge })["lines"].size).to eq(500)
    %w[NaN Infinity 1e999].each do |number|
      post("/api/audiences/preview", %({"definition":{"did":{"event":"ride_ended","where":[{"property":"km","compare":"is","value":#{number}}]}}}))
      expect(last_response.status).to be_between(400, 422)
    end
  end

  it "finds people by a list of identifiers, tells what else is asked of them, and gives the list as a file" do
    listed = { "all" => [{ "listed" => { "by" => "customer", "values" => %w[3 4 nobody] } }] }
    seen = call(:post, "/audiences/preview", { definition: listed, as_of: "2026-05-20" })
    expect(seen).to include("size" => 2, "sentence" => "People who are on a list of 3 customer IDs",
                            "lists" => [{ "by" => "customer", "identifiers" => 3, "missing" => 1, "named" => ["nobody"] }])
    inside = { "any" => [{ "not" => { "listed" => { "by" => "loyalty", "values" => %w[L2 L1] } } }, listed] }
    expect(call(:post, "/audiences/preview", { definition: inside, as_of: "2020-01-01" })["lists"].map { |list| list["named"] }).to eq([%w[L1 L2], %w[3 4 nobody]])
    none = { "all" => [{ "not" => { "listed" => { "by" => "loyalty", "values" => ["L1"] } } }] }
    expect(call(:post, "/audiences/preview", { definition: none })).to include("size" => call(:get, "/people")["total"], "sentence" => "People who are not on the list “L1” (loyalty ID)")
    columns = [{ take: "attribute:plan" }, { take: "count", event: "ride_ended" }]
    query = URI.encode_www_form(definition: JSON.generate(listed), columns: JSON.generate(columns), order: "column:1", as_of: "2026-05-20")
    rows = call(:get, "/people?#{query}")["rows"]
    rides = { person(3) => 4, person(4) => 4 }.slice(*rows.map { |row| row["id"] })
    expect(rows.map { |row| row["values"].last }).to eq(rows.map { |row| row["values"].last }.sort.reverse)
    expect(rows.map { |row| row["id"] }).to match_array(rides.keys)
    file = CSV.parse(call(:get, "/people.csv?#{query.sub("order=column%3A1&", "")}"), headers: true)
    expect(file.headers.last(3)).to eq(%w[identifiers plan count_ride_ended])
    expect(file.map { |row| [row["id"].to_i, row["count_ride_ended"].to_i] }).to match_array(rows.map { |row| [row["id"], row["values"].last] })
    expect(call(:get, "/people?columns=nonsense")).to be_refused(422, /JSON list of columns/)
    expect(call(:get, "/people?#{URI.encode_www_form(columns: JSON.generate([{ take: "identifier:email" }]))}")).to be_refused(422, /can be columns/)
    keep("Picked", listed)
    sign_in("viewer")
    expect(call(:post, "/audiences/preview", { definition: listed })).to be_refused(422, /cannot be used/)
    expect(call(:get, "/audiences")["audiences"].first).to include("sentence" => "It asks about personal data, which viewers do not see.")
    expect(call(:get, "/people.csv")).to include("customer:•••")
  end
end
