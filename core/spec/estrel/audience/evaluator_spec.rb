# frozen_string_literal: true

# Exact cases at the edges; random_histories_spec covers the rest.
RSpec.describe Estrel::Audience::Evaluator do
  let(:zone) { TZInfo::Timezone.get("Europe/Berlin") }

  def at(text) = zone.local_to_utc(Time.parse("#{text} UTC"))

  def population(people)
    Population.new(people, time_zone: "Europe/Berlin", event_types: { "ride_ended" => { "km" => "number" } },
                           attributes: { "plan" => "text", "joined" => "time" })
  end

  def rides(*times, **properties)
    { events: times.map { |time| { type: "ride_ended", at: at(time), **properties } }, attributes: [] }
  end

  def members(people, json, as_of)
    population = population(people)
    with_ledger(population) do |generation|
      definition = Estrel::Audience::Definition.parse(json, catalogue: population.catalogue)
      described_class.new(generation, as_of: Date.parse(as_of)).members(definition).to_a
    end
  end

  it "takes the last N days as N calendar days, across a clock change" do
    people = { 1 => rides("2026-10-25 00:00"), 2 => rides("2026-10-24 23:59:59"), 3 => rides("2026-10-26 23:59:59"),
               4 => rides("2026-10-27 00:00") }
    window = { "did" => { "event" => "ride_ended", "window" => { "last_days" => 2 } } }
    expect(members(people, window, "2026-10-26")).to eq([1, 3])
  end

  it "never counts people who were first seen after the as-of date" do
    none = { "did" => { "event" => "ride_ended", "count" => { "exactly" => 0 }, "window" => { "last_days" => 7 } } }
    people = { 1 => rides("2026-01-01 10:00"), 2 => rides("2026-06-01 10:00") }
    expect(members(people, none, "2026-03-01")).to eq([1])
    expect(members(people, none, "2026-07-01")).to eq([1, 2])
    expect(members(people, none, "2020-01-01")).to eq([])
  end

  it "lets a missing value satisfy only negative comparisons" do
    people = { 1 => rides("2026-01-01 10:00", km: nil), 2 => rides("2026-01-01 10:00", km: 5.0) }
    fits = lambda do |compare, value = nil|
      filter = { "property" => "km", "compare" => compare, "value" => value }.compact
      members(people, { "did" => { "event" => "ride_ended", "where" => [filter] } }, "2026-02-01")
    end
    expect(fits.call("is_not", 5)).to eq([1])
    expect(fits.call("is_not_set")).to eq([1])
    expect(fits.call("at_most", 5)).to eq([2])
    expect(fits.call("is_set")).to eq([2])
  end

  it "uses the value an attribute had on the date, and its days for times" do
    value = ->(time, text) { { name: "plan", at: at(time), value: text } }
    person = { events: [],
               attributes: [value.call("2026-01-01 10:00", "monthly"), value.call("2026-03-01 00:00", "none")] }
    monthly = { "attribute" => { "name" => "plan", "compare" => "is", "value" => "monthly" } }
    expect(members({ 1 => person }, monthly, "2026-02-28")).to eq([1])
    expect(members({ 1 => person }, monthly, "2026-03-01")).to eq([])

    joined = { events: [], attributes: [{ name: "joined", at: at("2026-01-01 10:00"),
                                          value: (at("2026-05-03 23:59:59").to_r * 1_000_000).to_i }] }
    time = lambda { |compare, day|
      members({ 1 => joined }, { "attribute" => { "name" => "joined", "compare" => compare, "value" => day } },
              "2026-06-01")
    }
    expect([time.call("is", "2026-05-03"), time.call("after", "2026-05-02"), time.call("after", "2026-05-03"),
            time.call("before", "2026-05-04")]).to eq([[1], [1], [], [1]])
  end

  it "tells how many are left after each condition, and how many fit each alone" do
    people = { 1 => rides("2026-01-01 10:00"), 2 => rides("2026-01-01 10:00", "2026-01-02 10:00"),
               3 => rides("2026-05-01 10:00") }
    twice = { "did" => { "event" => "ride_ended", "count" => { "at_least" => 2 } } }
    late = { "did" => { "event" => "ride_ended", "window" => { "last_days" => 30 } } }
    population = population(people)
    with_ledger(population) do |generation|
      definition = Estrel::Audience::Definition.parse({ "all" => [twice, late] }, catalogue: population.catalogue)
      expect(described_class.new(generation, as_of: Date.new(2026, 5, 10)).steps(definition))
        .to eq([{ left: 1, alone: 1, inner: [] }, { left: 0, alone: 1, inner: [] }])
    end
  end
end
