# frozen_string_literal: true

RSpec.describe Estrel::Audience::Definition do
  let(:catalogue) do
    Population.new({}, event_types: { "ride_ended" => { "distance_km" => "number" }, "pass_bought" => {} },
                       attributes: { "plan" => "text", "joined" => "time" }).catalogue
  end

  def parse(source) = described_class.parse(source, catalogue: catalogue)

  def faults(source)
    parse(source)
    []
  rescue Estrel::Audience::Invalid => e
    e.errors.map { |error| "#{error[:place]}: #{error[:message]}" }
  end

  def did(**body) = { "did" => { "event" => "ride_ended", **body.transform_keys(&:to_s) } }

  it "names the place of a fault and what may have been meant" do
    far = { "property" => "distnce_km", "compare" => "greater", "value" => 5 }
    expect(faults({ "all" => [did, did(where: [far])] })).to eq(
      ["all[1].did.where[0].property: there is no property \"distnce_km\" on \"ride_ended\"; did you mean \"distance_km\"?"]
    )
    level = { "so_far" => { "event" => "ride_ended", "property" => "bike" }, "compare" => "at_least", "value" => 5 }
    expect(faults(did(where: [level]))).to eq(["did.where[0].so_far.property: there is no property \"bike\" on \"ride_ended\""])
    expect(faults({ "any" => [{ "atribute" => {} }] })).to eq(["any[0].atribute: \"Atribute\" is not a known field; did you mean \"attribute\"?"])
    expect(faults({ "did" => { "event" => "ride_ende" } }).first).to include("did you mean \"ride_ended\"?")
  end

  it "finds every fault at once" do
    from = did(window: { "from" => "2026-05-09", "to" => "2026-05-03" })
    many = did(count: { "between" => [5, 2] })
    expect(faults({ "all" => [from, many,
                              { "attribute" => { "name" => "plan", "compare" => "greater", "value" => 3 } }] }))
      .to match([/\Aall\[0\]\.did\.window: .*ends .* before it starts/, /\Aall\[1\]\.did\.count\.between: .*lower limit \(5\) is greater than the upper limit/,
                 /\Aall\[2\]\.attribute\.compare: "plan" is text; compare it by is, is not/])
  end

  it "refuses what is too deep, too long, or no definition at all, without a crash" do
    deep = ("{\"not\":" * 60) + "{\"all\":[]}" + ("}" * 60)
    expect(faults(deep)).to eq([": the definition is nested too deeply; at most 16 levels are read"])
    expect(faults("[" * 100_000)).to match([/nested too deeply/])
    expect(faults(JSON.generate({ "all" => [] }) + (" " * 1_000_000)).first).to include("at most 262144 are read")
    ["", "nonsense", "[]", "3", "{}", "{\"all\":{}}", "{\"did\":{\"event\":\"ride_ended\",\"count\":{\"at_least\":0}}}",
     "{\"attribute\":{\"name\":\"plan\",\"compare\":\"is\"}}", "{\"attribute\":{\"name\":\"joined\",\"compare\":\"after\",\"value\":\"soon\"}}",
     "{\"all\":[NaN]}"].each { |source| expect(faults(source)).not_to be_empty, source }
  end

  it "has one canonical form for definitions that say the same" do
    short = parse({ "all" => [did] })
    long = parse({ "all" => [did(where: [], count: { "between" => [1, 5] }, window: { "ever" => true })] })
    same = parse(JSON.generate({ "all" => [did(count: { "at_least" => 1 })] }))
    expect(short.to_h).to eq(same.to_h)
    expect(short.digest).to eq(same.digest)
    expect(short.digest).not_to eq(long.digest)
    expect(parse(short.to_h).to_h).to eq(short.to_h)
    expect(parse({ "all" => [{ "lifecycle" => { "is" => %w[churned new] } }] }).to_h)
      .to eq("all" => [{ "lifecycle" => { "is" => %w[new churned] } }])
  end

  it "says how far steps lie apart, and refuses what cannot be" do
    order = ->(first, second) { { "order" => { "steps" => [{ "event" => "pass_bought", **first }, { "event" => "ride_ended", **second }] } } }
    apart = { "after" => { "days" => 7 }, "within" => { "days" => 14 } }
    definition = parse(order[{ "first" => true }, apart])
    expect(Estrel::Audience::Sentence.new(definition, catalogue).to_s)
      .to eq("People who for the first time bought a pass and then more than 7 days later and within 14 days ended a ride at any time")
    expect(parse(definition.to_h).digest).to eq(definition.digest)
    expect([order[{}, apart.merge("within" => { "hours" => 168 })], order[{}, apart.merge("other_day" => true)], order[{}, { "first" => true }]].flat_map { |json| faults(json) })
      .to match([/minimum delay \(7 days\) must be shorter than the time limit \(168 hours\)/, /“on another day” or a minimum delay/, /only the first step/])
  end

  it "says how often and how much was done in a visit, and refuses one in which nothing is asked for" do
    say = ->(json) { Estrel::Audience::Sentence.new(parse(json), catalogue).to_s }
    far = { "event" => "ride_ended", "measure" => { "of" => "distance_km", "take" => "sum", "compare" => "at_least", "value" => 25 } }
    none = { "event" => "pass_bought", "count" => { "exactly" => 0 } }
    rides = { "event" => "ride_ended", "count" => { "at_least" => 5 } }
    expect(say.call({ "visit" => { "all" => [far, none], "window" => { "last_days" => 30 } } }))
      .to eq("People who ended a ride whose total distance km is at least 25 and have not bought a pass within one visit in the last 30 days")
    expect(say.call({ "visited" => { "doing" => [rides, none], "ended" => { "event" => "ride_ended" }, "began" => { "event" => "pass_bought" } } }))
      .to eq("People who made a visit that started when they bought a pass and ended when they ended a ride and in which they ended a ride at least 5 times and have not bought a pass at any time")
    expect(parse({ "visited" => { "doing" => [far, rides, none] } }).to_h.dig("visited", "doing")).to eq([far, rides, none].map { |deed| { **deed, "where" => [] } })
    expect(faults({ "visit" => { "all" => [none] } })).to eq(["visit.all: add at least one event that happened in the visit"])
    expect(faults({ "visit" => { "all" => [{ **rides, "count" => { "at_least" => 2, "of" => "days" } }] } })).to eq(["visit.all[0].count.of: within a visit, only times can be counted"])
    expect(faults({ "visited" => { "doing" => [{ **far, **rides }] } })).to eq(["visited.doing[0]: choose a count or a measure, not both"])
  end

  it "is said in plain English" do
    definition = parse({ "all" => [
                         { "attribute" => { "name" => "plan", "compare" => "is", "value" => "pay as you go" } },
                         did(count: { "at_least" => 3 }, window: { "last_days" => 30 },
                             where: [{ "property" => "distance_km", "compare" => "greater", "value" => 5.0 }]),
                         { "did" => { "event" => "pass_bought", "count" => { "exactly" => 0 },
                                      "window" => { "last_days" => 60 } } },
                         { "any" => [{ "lifecycle" => { "is" => %w[new active] } },
                                     { "not" => { "attribute" => { "name" => "joined", "compare" => "is_set" } } }] }
                       ] })
    expect(Estrel::Audience::Sentence.new(definition, catalogue).to_s).to eq(
      "People whose plan is pay as you go, and who ended a ride at least 3 times where distance km is more than 5 " \
      "in the last 30 days, and who have not bought a pass in the last 60 days, and " \
      "(who are new or active, or whose joined is not set)"
    )
  end
end
