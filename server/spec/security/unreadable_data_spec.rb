# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe "data that one part accepts and another might not read" do
  include CollectorHelper

  let(:api) { Class.new { include ApiHelper, RSpec::Matchers }.new }

  let(:each) { Checks.all? ? 10_000 : 2_000 }

  def answers
    ledger = EstrelServer.ledger.current
    aside = ledger.facts["set_aside"].sum { |part| part["count"] }
    expect(ledger.facts["event_count"] + aside).to eq(EstrelServer::Event.count)
    # As of today: whoever is known by nothing readable is first seen when the profile was made.
    everybody = api.call(:post, "/audiences/preview", { definition: { "all" => [] }, as_of: Time.now.utc.to_date.iso8601 })
    expect(everybody["size"]).to eq(EstrelServer::Profile.count)
    EstrelServer::EventType.ids.each { |id| expect(api.call(:get, "/catalogue/types/#{id}")["properties"].size).to be_positive }
    aside
  end

  def refused(answer) = answer["events"] ? answer["events"].count { |row| row["outcome"] == "refused" && row["reason"].to_s.length > 5 } : 1

  it "is kept or refused with a reason, event by event, and every part goes on" do
    seed = Checks.seed
    fuzzer = JsonFuzzer.new(seed)
    key = key_for("app")
    lines = Array.new(each) { |number| fuzzer.event("file-#{number}") }
    read = import(lines.join("\n"))
    expect([read.state, read.rows_read, read.stored + read.already_known + read.rejected]).to eq(["done", each, each]), "seed #{seed}: #{read.error}"
    expect(read.rejects.where("LENGTH(reason) < 6").count).to eq(0)
    people = import(Array.new(each / 10) { |number| fuzzer.profile(number) }.join("\n"), kind: "profiles")
    expect([people.state, people.stored + people.already_known + people.rejected]).to eq(["done", each / 10]), "seed #{seed}: #{people.error}"
    sent = Array.new(each) { |number| fuzzer.event("sent-#{number}") }
    good, bad = sent.partition do |text|
      JSON.parse(text.scrub, max_nesting: 0, allow_duplicate_key: true) && text.valid_encoding?
    rescue StandardError
      false
    end
    outcomes = good.each_slice(400).flat_map { |slice| batch(slice, key) }
    broken = bad.first(400).map { |text| send_body(text, "application/cloudevents+json", key: key) && last_response.status }
    expect(outcomes.tally.keys - %w[stored known refused]).to be_empty, "seed #{seed}"
    expect(outcomes.size).to eq(good.size)
    expect(broken.uniq - [400, 422]).to be_empty, "seed #{seed}"
    expect(EstrelServer::Event.count).to eq(read.stored + outcomes.count("stored"))
    refresh
    expect(EstrelServer.ledger.current.attribute_history.height).to be_positive
    expect(answers).to eq(0), "seed #{seed}: what is taken in now can all be read"
    expect(EstrelServer::EventProperty.where(out_of_range: true)).not_to be_empty
  end

  # A batch that is nested too deeply as a whole is taken apart, as a sender would.
  def batch(texts, key)
    answer = send_batch(nil, body: "[#{texts.join(",")}]", key: key)
    return answer["events"].map { |row| row["outcome"] } if answer["events"]
    return ["refused"] if texts.one?

    texts.each_slice((texts.size / 2.0).ceil).flat_map { |half| batch(half, key) }
  end

  it "keeps numbers exactly, or as the text they were written as, and says so" do
    key = key_for("app")
    numbers = { "iccid" => "89490200001234567890", "big" => "1e999", "long" => "7" * 5000, "exact" => "9007199254740993", "fits" => "9007199254740992", "small" => "4.5" }
    body = %({"specversion":"1.0","id":"1","source":"app","type":"ride_ended","subject":"customer:1","time":"2026-05-03T10:00:00Z","data":{#{numbers.map { |name, text| "\"#{name}\":#{text}" }.join(",")}}})
    expect(outcomes(send_batch(nil, body: "[#{body}]", key: key))).to eq(["stored"])
    import(body.sub('"id":"1"', '"id":"2"'))
    fact = body.sub('"id":"1"', '"id":"3"').sub("ride_ended", "estrel.attributes")
    expect(outcomes(send_batch(nil, body: "[#{fact}]", key: key))).to eq(["stored"])
    import("{\"subject\":\"customer:2\",\"attributes\":{\"iccid\":89490200001234567890}}", kind: "profiles")
    expect(EstrelServer::AttributeDefinition.where(out_of_range: true).pluck(:name)).to match_array(%w[iccid big long exact])
    kept = EstrelServer::Event.order(:id).map(&:properties)
    expect(kept[0]).to eq(kept[1])
    expect(kept[0]).to eq({ **numbers.except("fits", "small"), "fits" => 9_007_199_254_740_992, "small" => 4.5 })
    expect(EstrelServer::EventProperty.where(out_of_range: true).pluck(:name)).to match_array(%w[iccid big long exact])
    refresh
    expect(EstrelServer.ledger.current.events("ride_ended")["property:iccid"].to_a).to eq(["89490200001234567890"] * 2)
  end

  it "sets aside what an earlier version has let in and cannot be read, with the reason, and reads the rest" do
    import(Array.new(2000) { |number| event(number.to_s, subject: "customer:#{number}", data: { "km" => 1.5, "\\" => number.even? ? "x" : 1 }) }.join("\n"))
    spoilt = { 10 => '{"km": 89490200001234567890}', 700 => "{\"km\": #{"9" * 5000}}", 1500 => '{"km": 1e999}' }
    spoilt.each { |id, text| EstrelServer::Event.where(id: EstrelServer::Event.order(:id).offset(id).pick(:id)).update_all(["properties = ?", text]) }
    refresh
    api.sign_in
    told = api.call(:get, "/workspace/faults")["set_aside"]
    expect([told["count"], told["rows"].map { |row| row["event_type"] }.uniq]).to eq([answers, ["ride_ended"]])
    expect(told["count"]).to be_between(1, 3)
    expect(told["rows"].map { |row| row["reason"] }).to all(match(/\w{5}/))
    expect(EstrelServer.ledger.current.events("ride_ended")["property:\\"].to_a.tally.keys).to include("x", "1")
    import(event("later"))
    expect(refresh["set_aside"].sum { |part| part["count"] }).to eq(told["count"])
  end

  it "reads properties whose names Polars takes for patterns, and all others" do
    data = { "km" => 1.5, "*" => 2, "^km$" => 3, "^.*$" => "x", "at" => "2026-05-03T10:00:00Z" }
    import([event("1", data: data), event("2", data: { "km" => 4 })].join("\n"))
    refresh
    found = EstrelServer.ledger.current.events("ride_ended").sort("property:km")
    expect(answers).to eq(0)
    expect((data.keys - ["at"]).to_h { |name| [name, found["property:#{name}"].to_a] })
      .to eq({ "km" => [1.5, 4.0], "*" => [2.0, nil], "^km$" => [3.0, nil], "^.*$" => ["x", nil] })
  end

  it "takes a word that means nothing to the database for what it is" do
    import([event("1", subject: "customer:NULL", data: { "NULL" => "NULL" }), event("2", subject: "customer:NULL")].join("\n"))
    refresh
    expect(EstrelServer.ledger.current.profiles["identifier:customer"].to_a).to eq(["NULL"])
    expect(EstrelServer.ledger.current.events("ride_ended")["property:NULL"].to_a).to contain_exactly("NULL", nil)
  end
end
