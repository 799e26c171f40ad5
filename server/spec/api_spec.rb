# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::API do
  include ApiHelper

  let(:far) { { "all" => [{ "did" => { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "greater", "value" => 4 }] } }] } }

  before { sign_in }

  it "answers before anything has been imported" do
    expect(call(:get, "/workspace")).to include("ready" => false)
    expect(analyse("states")).to be_refused(409, /No data has been imported/)
    expect(call(:get, "/people")).to include("status" => 409, "detail" => "No data has been imported yet.")
    expect(call(:get, "/imports")).to eq({ "imports" => [] })
  end

  it "tells the base, its people, and what one of them did" do
    fill
    expect(call(:get, "/workspace")).to include("ready" => true, "default_as_of" => "2026-05-31")
    base = picture("states", as_of: "2026-05-31", from: "2026-05-01", step: "day")
    expect(base["states"].sum { |row| row["count"] }).to eq(base["people"]).and eq(6)
    expect(base["counts"]["new"].last).to eq(0)
    expect(analyse("states", as_of: "2019-01-01")).to include("finding" => "No people known on 1 Jan 2019.")

    active = call(:get, "/people?state=active&per_page=2")
    expect(active["rows"].size).to eq([2, active["total"]].min)
    found = call(:get, "/people?search=customer:6")["rows"].first
    expect(call(:get, "/people/#{found["id"]}")["event_types"]).to match([include("name" => "ride_ended", "count" => 7)])
    expect(call(:get, "/people/#{found["id"]}?as_of=2026-04-01")).to include("known_by_then" => false)
    expect(call(:get, "/people/#{found["id"]}/events?type=ride_ended&per_page=3&page=3")["rows"].size).to eq(1)
    expect(call(:get, "/catalogue/values?event=ride_ended&property=km")["values"].first).to eq({ "value" => "6.0", "count" => 7 })
    expect(call(:get, "/catalogue")["columns"]).to include("identifier:email", "attribute:plan", "state")
    expect(call(:get, "/schemas/audience-definition.json")["title"]).to eq("Estrel audience definition")
  end

  it "previews, keeps, changes, deletes and restores audiences" do
    fill
    preview = call(:post, "/audiences/preview", { definition: far })
    expect(preview).to include("size" => 2, "base" => 6)
    expect(preview["lines"].first).to include("left" => 2, "alone" => 2, "place" => "all[0]")
    sample = call(:post, "/audiences/sample", { definition: far })["sample"]
    expect(sample.map { |row| [row["identifiers"].first["value"], row["facts"]] }).to eq([["5", ["ended a ride like that 6 times at any time"]], ["6", ["ended a ride like that 7 times at any time"]]])

    made = call(:post, "/audiences", { name: " Far ", definition: far })
    expect([last_response.status, made["name"], made["version"]]).to eq([201, "Far", 1])
    expect(call(:post, "/audiences/preview", { definition: { "all" => [far["all"].first] } })["same_as"]).to eq([{ "id" => made["id"], "name" => "Far" }])
    again = call(:put, "/audiences/#{made["id"]}", { name: "Further", definition: far })
    expect(again).to include("name" => "Further", "version" => 1)
    expect(call(:put, "/audiences/#{made["id"]}", { definition: { "not" => far } })).to include("version" => 2)
    expect(call(:get, "/audiences")["audiences"]).to match([include("name" => "Further", "size" => 4)])
    expect(call(:get, "/people?audience=#{made["id"]}")["total"]).to eq(4)
    call(:delete, "/audiences/#{made["id"]}")
    expect(call(:get, "/audiences/#{made["id"]}")).to be_refused(404, /not found/i)
    expect(call(:post, "/audiences/#{made["id"]}/restore")["deleted"]).to be(false)
  end

  it "lets audiences refer to each other, but in no ring, and deletes none that is used" do
    fill
    one = call(:post, "/audiences", { name: "Far", definition: far })["id"]
    two = call(:post, "/audiences", { name: "Far and new", definition: { "all" => [{ "audience" => { "id" => one } }, { "lifecycle" => { "is" => ["new"] } }] } })
    expect(two["sentence"]).to eq("People who are in “Far”, and who are new")
    expect(call(:get, "/audiences?as_of=2026-05-20")["audiences"].to_h { |row| row.values_at("name", "size") }).to include("Far" => 2)
    ring = call(:put, "/audiences/#{one}", { definition: { "any" => [{ "audience" => { "id" => two["id"] } }] } })
    expect(ring["errors"].first["message"]).to eq("these audiences refer to each other in a circle: Far → Far and new → Far")
    expect(call(:put, "/audiences/#{one}", { definition: { "audience" => { "id" => one } } })["errors"].first["message"]).to include("Far → Far")
    expect(call(:post, "/audiences/preview", { definition: { "audience" => { "id" => 999 } } })["errors"]).to match([include("place" => "audience.id")])
    refused = call(:delete, "/audiences/#{one}")
    expect(refused).to include("status" => 409, "errors" => [include("place" => "Far and new")])

    call(:put, "/audiences/#{one}", { definition: { "not" => far } })
    versions = call(:get, "/audiences/#{one}/versions")["versions"]
    expect(versions.map { |row| row["number"] }).to eq([2, 1])
    expect(call(:post, "/audiences/#{one}/versions/1/restore")).to include("version" => 3, "digest" => versions.last["digest"])
    expect(call(:post, "/audiences/trend", { definition: far, as_of: "2026-05-31" })["sizes"].last(3)).to eq([2, 2, 2])
    waiting = { "order" => { "steps" => [{ "event" => "ride_ended" }], "then_not" => { "event" => "ride_ended", "within" => { "days" => 3 } } } }
    expect(call(:post, "/audiences/preview", { definition: waiting, as_of: "2026-05-02" })).to include("size" => 0, "undecided" => 6, "states" => include("new" => 0))
  end

  it "changes the rule set, and refuses one that makes no sense" do
    fill
    rules = { activity: ["ride_ended"], new_for: 3, active_within: 4, churned_after: 9 }
    expect(call(:put, "/rule-set", rules)).to include("chosen" => true, "churned_after" => 9)
    expect(call(:get, "/rule-set")).to include("new_for" => 3)
    expect(call(:put, "/rule-set", rules.merge(active_within: 0))["errors"]).to match([include("place" => "active_within")])
    expect(call(:put, "/rule-set", rules.merge(churned_after: 4))["errors"]).to match([include("place" => "churned_after")])
    expect(call(:put, "/rule-set", rules.merge(activity: ["ride"]))["errors"]).to match([include("message" => /no event type/)])
    expect(call(:get, "/rule-set")).to include("active_within" => 4)
  end

  it "takes uploads, tells their progress, and lists what was refused" do
    upload = Rack::Test::UploadedFile.new(StringIO.new([event("a"), "nonsense"].join("\n")), "text/plain", original_filename: "x.jsonl")
    header("Host", "127.0.0.1:4270")
    post("/api/imports", { "file" => upload, "kind" => "events", "mapping" => "{}" })
    queued = JSON.parse(last_response.body)
    expect([last_response.status, queued["state"]]).to eq([201, "queued"])
    work_off
    expect(call(:get, "/imports/#{queued["id"]}")).to include("state" => "done", "stored" => 1, "rejected" => 1)
    expect(CSV.parse(call(:get, "/imports/#{queued["id"]}/rejects.csv"))).to match([%w[row reason original], ["2", /not valid JSON/, "nonsense"]])
    expect(call(:get, "/workspace")).to include("ready" => true)

    upload.rewind
    post("/api/imports", { "file" => upload, "mapping" => "{\"colums\":{}}" })
    expect(JSON.parse(last_response.body)["detail"]).to match(/no setting "colums"/)
    waiting = EstrelServer::Import.create!(kind: "events", file_name: "y", path: "/nowhere", mapping: {})
    expect(call(:post, "/imports/#{waiting.id}/cancel")).to include("state" => "cancelled")
  end

  it "refuses bad requests with a problem, never with a crash" do
    fill
    { "/people?page=0" => 422, "/people?state=asleep" => 422, "/people/x" => 404, "/people/99999" => 404, "/nowhere" => 404,
      "/people?as_of=yesterday" => 422, "/people?as_of=2999-01-01" => 422,
      "/people?search=%FF" => 400 }.each do |path, status|
      header("Host", "127.0.0.1:4270")
      get("/api#{path}")
      expect([path, last_response.status, last_response.media_type]).to eq([path, status, "application/problem+json"])
    end
    fault = call(:post, "/audiences/preview", { definition: { "did" => { "event" => "ride_ende" } } })
    expect(fault["errors"]).to eq([{ "place" => "did.event", "message" => "there is no event type \"ride_ende\"; did you mean \"ride_ended\"?" }])
    expect(call(:post, "/audiences", { name: "  ", definition: far })).to be_refused(422, /Name can't be blank/)
    expect(call(:post, "/audiences/preview", { definition: { "all" => [{ "all" => [] }] * 300, "x" => "y" * 1_100_000 } })).to be_refused(413, /longer than 1048576 bytes/)
    deep = (1..60).reduce({ "all" => [] }) { |inner, _| { "not" => inner } }
    expect(call(:post, "/audiences/preview", { definition: deep })["errors"].first["message"]).to match(/too deeply/)
  end

  it "keeps other sites out" do
    fill
    header("Host", "127.0.0.1:4270")
    header("Origin", "http://elsewhere.example")
    header("Content-Type", "application/json")
    post("/api/workspace/clear", JSON.generate({ confirm: "remove all data" }))
    expect([last_response.status, EstrelServer::Profile.count]).to eq([403, 6])
    header("Origin", nil)
    header("Content-Type", "text/plain")
    post("/api/workspace/clear", JSON.generate({ confirm: "remove all data" }))
    expect(last_response.status).to eq(415)
    header("Host", "elsewhere.example")
    get("/api/workspace")
    expect(last_response.status).to eq(403)
    header("Host", "127.0.0.1:4270")
    get("/api/workspace")
    expect(last_response.headers["content-security-policy"]).to include("script-src 'self';")
    expect(call(:post, "/workspace/clear", { confirm: "remove all data" })).to eq({ "cleared" => true })
    expect(EstrelServer::Profile.count).to eq(0)
  end
end
