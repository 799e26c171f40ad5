# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Collecting::Application do
  include CollectorHelper

  let(:key) { key_for("app") }

  def raw(type, body = "{}", **headers) = send_body(body, type, key: key, **headers)

  it "takes events in all three forms, once, and says so event by event" do
    answer = send_batch([cloud_event("a"), cloud_event("b", subject: "visitor:v1"), cloud_event("a")], key: key)
    expect(last_response.status).to eq(200)
    expect(outcomes(answer)).to eq(%w[stored stored known])
    expect(raw("application/cloudevents+json; charset=utf-8", JSON.generate(cloud_event("c")))).to include("stored" => 1)
    binary = { ce_specversion: "1.0", ce_id: "d", ce_source: "app", ce_type: "ride_ended", ce_subject: "customer:Zo%C3%AB",
               ce_time: "2026-05-03T10:00:00Z" }
    expect(raw("application/json", "{\"km\":2}", **binary)).to include("stored" => 1)
    expect(EstrelServer::Identifier.pluck(:value)).to contain_exactly("1", "v1", "Zoë")
    expect(raw("application/json", "{\"km\":2}", **binary)).to include("known" => 1)
    expect(send_batch([cloud_event("a", data: { "km" => 9 })], key: key)["events"]).to match([include("outcome" => "refused", "reason" => /this ID and different data already exists/)])
    expect(EstrelServer::Event.order(:id).pluck(:event_key)).to eq(%w[a b c d])
    expect(EstrelServer::Event.find_by(event_key: "d").properties).to eq({ "km" => 2 })
  end

  it "takes gzip, and refuses what is too long packed or unpacked" do
    zipped = Zlib.gzip(JSON.generate([cloud_event("a")]))
    expect(send_batch(nil, key: key, body: zipped, content_encoding: "gzip")).to include("stored" => 1)
    bomb = Zlib.gzip("[#{" " * 40_000_000}]")
    expect(bomb.bytesize).to be < 100_000
    send_batch(nil, key: key, body: bomb, content_encoding: "gzip")
    expect(last_response.status).to eq(413)
    send_batch(nil, key: key, body: "[#{" " * 5_000_000}]")
    expect(last_response.status).to eq(413)
    send_batch(Array.new(1_001) { |index| cloud_event("e#{index}") }, key: key)
    expect(last_response.status).to eq(413)
    { zipped[0, 30] => 400, "no gzip" => 400 }.each do |body, status|
      send_batch(nil, key: key, body: body, content_encoding: "gzip")
      expect(last_response.status).to eq(status)
    end
    expect(EstrelServer::Event.count).to eq(1)
  end

  it "refuses bad events one by one, keeps the good ones, and remembers the refused" do
    bad = { cloud_event("r1", specversion: "0.3") => /not 0.3/, cloud_event("r2", specversion: "9") => /not a CloudEvent/,
            cloud_event("r3", subject: nil) => /subject is missing/, cloud_event("r4", time: nil) => /time is missing/,
            cloud_event("", type: "x") => /id is missing/, cloud_event("r5", type: nil) => /type is missing/,
            cloud_event("r6", subject: "customer:#{"x" * 1_000_000}") => /longer than 255/,
            cloud_event("r7", subject: "customer:a\u0000b") => /control characters/, cloud_event("r8", data: [1]) => /“data” must be an object/,
            cloud_event("r9", time: (Time.now.utc + (365 * 86_400)).iso8601) => /in the future/,
            cloud_event("r10", type: "estrel.nothing") => /reserved/, cloud_event("r11", id: 7) => /id must be text/,
            cloud_event("r12", data: (1..201).to_h { |index| ["p#{index}", 1] }) => /more than 200 properties/,
            link("r13", "visitor:v", "visitor:v") => /linked to itself/, link("r14", "visitor:v", "elephant:v") => /no identifier kind/,
            attributes("r15", "customer:1", nested: { "a" => 1 }) => /must be a text, a number/,
            cloud_event("r16", type: "estrel.consent", data: { "channel" => "pigeon", "given" => true }) => /channel must be/,
            cloud_event("r17", source: "kiosk") => /This key belongs to the source "app"/, "text" => /not a JSON object/ }
    answer = send_batch([cloud_event("g1"), *bad.keys, cloud_event("g2", data: { "note" => "\u202Eעברית 🚲" })], key: key)
    expect(last_response.status).to eq(200)
    expect(answer["events"][1..-2].map { |row| row["reason"] }).to match(bad.values)
    expect(answer).to include("stored" => 2, "refused" => bad.size)
    expect(EstrelServer::Refusal.count).to eq(bad.size)
    expect(EstrelServer::Refusal.find_by(reason: answer["events"][3]["reason"]).payload).to eq(JSON.generate(bad.keys[2]))
    EstrelServer::Refusal.limit(3).update_all(received_at: Time.now.utc - (8 * 86_400))
    expect { EstrelServer::Refusal.clear_old }.to change(EstrelServer::Refusal, :count).by(-3)
  end

  it "answers requests that hold no events with a problem that says why" do
    { ["application/json", "{}"] => 415, ["text/plain", "x"] => 415, ["application/cloudevents+json", "{"] => 400,
      ["application/cloudevents+json", "\xFF\xFE"] => 400, ["application/cloudevents-batch+json", "{}"] => 400,
      ["application/cloudevents+json", "[" * 500] => 400, ["application/cloudevents+json", "{}"] => 422 }.each do |(type, body), status|
      raw(type, body)
      expect([type, body[0, 9], last_response.status]).to eq([type, body[0, 9], status])
    end
    raw("application/json", "{}", ce_specversion: "1.0", ce_id: "%FF", ce_source: "app", ce_type: "t")
    expect(last_response.status).to eq(400)
    expect(EstrelServer::Event.count).to eq(0)
  end

  it "knows keys: revoked, rotated, of another source, limited to types and to a rate" do
    old = key
    send_batch([cloud_event("a")], key: "ek_wrong")
    expect([last_response.status, last_response.headers["www-authenticate"]]).to eq([401, "Bearer"])
    source = EstrelServer::Source.find_by!(name: "app")
    _, fresh = source.rotate_key(1)
    forget_directory
    expect([old, fresh].map { |each_key| send_batch([cloud_event("a")], key: each_key)["refused"] }).to eq([0, 0])
    source.sending_keys.first.update!(expires_at: Time.now.utc - 1)
    source.sending_keys.last.update!(revoked_at: Time.now.utc)
    forget_directory
    [old, fresh].each { |each_key| send_batch([cloud_event("b")], key: each_key) && expect(last_response.status).to(eq(401)) }

    kiosk = key_for("kiosk", allowed_types: %w[pass_bought], events_per_minute: 3)
    send_batch([cloud_event("c")], key: kiosk)
    expect(last_response.status).to eq(403)
    answer = send_batch([cloud_event("c", source: "kiosk"), cloud_event("d", source: "kiosk", type: "pass_bought")], key: kiosk)
    expect(outcomes(answer)).to eq(%w[refused stored])
    send_batch([cloud_event("e", source: "kiosk", type: "pass_bought")] * 2, key: kiosk)
    expect([last_response.status, last_response.headers["retry-after"].to_i]).to match([429, be_between(1, 60)])
    expect(EstrelServer::SendingKey.pluck(:digest).join).not_to include(old)
  end

  it "bounds how many properties a type can have, and what is there stays readable" do
    wide = ->(from) { (from...(from + 100)).to_h { |index| ["p#{index}", index] } }
    answer = send_batch((0..99).map { |index| cloud_event("w#{index}", data: wide.call(index * 100)) }, key: key)
    expect(answer).to include("stored" => 5, "refused" => 95)
    expect(answer["events"].last["reason"]).to match(/already; at most 500/)
    refresh
    expect(EstrelServer.ledger.current.events("ride_ended")["property:p7"].drop_nulls.to_a).to eq([7.0])
  end

  it "keeps typed attributes, links and consent, each counted once" do
    events = [attributes("1", "customer:1", plan: "monthly", born: "1990-02-28", tags: %w[early night], rides: 4),
              attributes("2", "customer:1", time: "2026-05-01T10:00:00Z", plan: "student"),
              cloud_event("3", type: "estrel.consent", data: { "channel" => "email", "given" => false, "evidence" => "ticket 8" }),
              link("4", "visitor:v", "customer:1"), cloud_event("5", subject: "visitor:v")]
    expect(outcomes(send_batch(events, key: key)).uniq).to eq(%w[stored])
    expect(outcomes(send_batch(events, key: key)).uniq).to eq(%w[known])
    expect(send_batch([cloud_event("3", type: "estrel.consent", data: { "channel" => "email", "given" => true })], key: key)["refused"]).to eq(1)
    expect(send_batch([cloud_event("4")], key: key)["refused"]).to eq(1)
    expect(EstrelServer::AttributeDefinition.order(:name).pluck(:name, :value_type)).to eq([%w[born date], %w[plan text], %w[rides number], %w[tags list]])
    expect(EstrelServer::Consent.pluck(:channel, :given, :evidence)).to eq([["email", false, "ticket 8"]])
    refresh
    generation = EstrelServer.ledger.current
    expect(generation.profiles["attribute:plan"].to_a).to eq(%w[monthly]) # the newest by occurrence, though it came first
    expect(generation.profiles["attribute:tags"].to_a).to eq([%w[early night]])
    fits = lambda do |attribute|
      definition = Estrel::Audience::Definition.parse({ "attribute" => attribute }, catalogue: generation.catalogue)
      Estrel::Audience::Evaluator.new(generation, as_of: Date.new(2026, 5, 31)).size(definition)
    end
    expect(fits.call({ "name" => "plan", "compare" => "is", "value" => "student" })).to eq(0)
    expect(fits.call({ "name" => "plan", "compare" => "is", "value" => "student", "ever" => true })).to eq(1)
    expect(fits.call({ "name" => "born", "compare" => "before", "value" => "1990-03-01" })).to eq(1)
    expect(fits.call({ "name" => "tags", "compare" => "contains", "value" => "night" })).to eq(1)
  end

  it "answers random mutations of good requests without ever failing or losing a good event" do
    random = Random.new(Checks.seed)
    stored = []
    150.times do |round|
      events = Array.new(1 + random.rand(4)) { |index| cloud_event("f#{round}-#{index}") }
      whole = random.rand < 0.5
      bad = whole ? nil : mutate_value(events, random)
      body = JSON.generate(events)
      body = mutate_text(body, random) if whole
      answer = send_batch(nil, key: key, body: body)
      expect(last_response.status).to be_between(200, 499), "seed #{random.seed}: #{body.inspect}: #{last_response.body}"
      next if whole && last_response.status != 200

      stored += answer["events"].select { |row| row["outcome"] == "stored" }.map { |row| row["id"] }
      good = whole ? [] : events.reject { |event| event.equal?(bad) }.map { |event| event["id"] }
      expect(good - stored).to eq([]), "seed #{random.seed}: #{body.inspect}: #{answer}"
    end
    expect(EstrelServer::Event.pluck(:event_key)).to match_array(stored)
  end

  def mutate_value(events, random)
    victim = events[random.rand(events.size)]
    name = victim.keys[random.rand(victim.size)]
    victim[name] = [nil, 7, -1.5, true, [], {}, "", "x" * 400, "\u0000", "customer:", "2026-13-01T00:00:00Z", "\u{1F6B2}",
                    { "a" => { "b" => [1] } }, "estrel.link", [["deep"]]][random.rand(15)]
    victim
  end

  def mutate_text(body, random)
    bytes = body.b
    (1 + random.rand(3)).times do
      at = random.rand(bytes.bytesize)
      case random.rand(3)
      when 0 then bytes.setbyte(at, random.rand(256))
      when 1 then bytes = bytes.byteslice(0, at) + bytes.byteslice((at + 1)..)
      else bytes.insert(at, random.bytes(1))
      end
    end
    bytes
  end
end
