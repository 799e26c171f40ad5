# frozen_string_literal: true

RSpec.describe Estrel::Names do
  let(:field) { ->(name, **chosen) { Estrel::Catalogue::Field.new(name: name, type: "number", mixed: false, **chosen) } }
  let(:catalogue) do
    fields = [field.call("distance_km", display: "distance", quantity: "distance", unit: "km"), field.call("price", quantity: "money", unit: "orrins"),
              field.call("net"), field.call("campaign", values: { "spring" => "Spring hello" })]
    types = { "ride_ended" => {}, "Order Completed" => {}, "$view" => {}, "Überweisung geprüft" => {}, "x" => {}, "rss_feed" => {},
              "tram_used" => { noun: "tram ride", phrase: "took a tram" }, "…" => {}, "message_received" => {} }
    event_types = types.map { |name, chosen| Estrel::Catalogue::EventType.new(id: 1, name: name, properties: fields.to_h { |one| [one.name, one] }, count: 1, **chosen) }
    Estrel::Catalogue.new(event_types: event_types, attributes: [field.call("homeQuarter")])
  end
  let(:names) { catalogue.names }

  def sentence(condition) = Estrel::Audience::Sentence.new(Estrel::Audience::Definition.parse(condition, catalogue: catalogue), catalogue).to_s

  it "makes names of raw ones, whatever they look like" do
    expect(catalogue.event_types.keys.map { |name| names.event(name) }).to eq(["ride ended", "order completed", "view", "überweisung geprüft", "x", "rss feed", "tram ride", "…", "message received"])
    expect([names.attribute("homeQuarter"), names.property("distance_km"), names.property("net"), names.event("userIDChanged")]).to eq(["home quarter", "distance", "net", "user ID changed"])
  end

  it "keeps raw names apart that would read alike" do
    types = %w[ride_ended rideEnded].map { |name| Estrel::Catalogue::EventType.new(id: 1, name: name, properties: {}, count: 1) }
    types.first.noun = "ride ended"
    alike = Estrel::Catalogue.new(event_types: types, attributes: []).names
    expect([alike.event("ride_ended"), alike.event("rideEnded"), alike.done("rideEnded")]).to eq(["ride ended", "rideEnded", "had “rideEnded” events"])
  end

  it "says what people did and did not do, with any catalogue" do
    expect(names.done("Order Completed")).to eq("completed an order")
    expect(names.events(["x", "ride_ended", "$view", "rss_feed"])).to eq("ended a ride or had “x”, “view” or “rss feed” events")
    expect(names.events(["tram_used"], done: false)).to eq("taken a tram")
    gone = { "order" => { "steps" => [{ "event" => "ride_ended" }], "then_not" => { "event" => "tram_used", "within" => { "days" => 1 } } } }
    expect(sentence(gone)).to eq("People who ended a ride at any time but have not taken a tram within a day")
  end

  it "says opposites as a person would, and exceptions where there is no other way" do
    denied = { "all" => [{ "not" => { "reachable" => { "by" => %w[email sms push] } } }, { "not" => { "did" => { "event" => "tram_used" } } },
                         { "not" => { "any" => [{ "did" => { "event" => "x" } }, { "profile_type" => { "is" => ["visitor"] } }] } }] }
    expect(sentence(denied)).to eq("People who cannot be reached by email, SMS or push, and who have not taken a tram at any time, " \
                                   "except those (who had “x” events at least once at any time, or who are visitors)")
  end

  it "denies only what says exactly the opposite" do
    # Whatever a denial says must be the complement, missing values included.
    catalogue = Population.new({}, event_types: { "ride_ended" => {} }, attributes: { "plan" => "text" }).catalogue
    words = Estrel::Audience::Phrases.new(catalogue)
    told = { { "attribute" => { "name" => "plan", "compare" => "is", "value" => "day" } } => "whose plan is not day",
             { "attribute" => { "name" => "plan", "compare" => "starts_with", "value" => "day" } } => nil,
             { "attribute" => { "name" => "plan", "compare" => "is", "value" => "day", "ever" => true } } => nil,
             { "did" => { "event" => "ride_ended", "count" => { "at_least" => 2 } } } => nil,
             { "lifecycle" => { "is" => ["churned"] } } => "who are not churned",
             { "lifecycle" => { "is" => ["churned"], "on" => "2026-05-01" } } => nil }
    told.each do |json, said|
      condition = Estrel::Audience::Definition.parse(json, catalogue: catalogue).root
      expect(condition.denied(words)&.map { |part| part[:text] }&.join(" ")).to eq(said), json.to_json
    end
  end

  it "gives values their units and names" do
    cases = { "distance_km" => 3.25, "price" => 1234.5, "net" => 1980.0, "campaign" => "spring" }
    expect(cases.map { |name, value| names.said(names.property_field(name), value) }).to eq(["3.25 km", "1,234.50 orrins", "1980", "Spring hello"])
    expect(sentence({ "campaign" => { "was" => "opened", "name" => "spring" } })).to start_with("People who opened a message of “Spring hello”")
    measured = { "did" => { "event" => "ride_ended", "measure" => { "of" => "distance_km", "take" => "distinct", "compare" => "greater", "value" => 5 } } }
    expect(sentence(measured)).to end_with("number of distinct values of distance is more than 5")
  end
end
