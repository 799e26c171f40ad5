# frozen_string_literal: true

# Populations of a shape that random ones hardly ever have, against the reference.
RSpec.describe "populations of hard shapes" do
  let(:seed) { Checks.seed }
  let(:random) { RandomPopulation.new(seed) }
  let(:people) { random.population.people }
  let(:year) { 365 * 86_400 }

  def like(changed) = Population.new(changed, **random.population.settings)

  def shifted(person, seconds)
    events = person[:events].map { |event| event.merge(at: event[:at] + seconds, received: nil, of: nil) }
    person.merge(events: events, attributes: person[:attributes].map { |row| row.merge(at: row[:at] + seconds, received: nil) })
  end

  def with_events(person, number)
    filled = person[:events] + Array.new(number) { random.send(:event) }
    person.merge(events: filled)
  end

  # Whoever has neither an event nor an attribute is unknown.
  def known(changed) = changed.reject { |_, person| person[:events].empty? && person[:attributes].empty? }

  # As states, counts and audiences are told in one part, in seven, and with a tail.
  def expect_agreement(population, dates = Array.new(Checks.all? ? 2 : 1) { random.date })
    rule_set = random.rule_set
    reference = Reference.new(population, rule_set)
    definitions = Array.new(12) { random.definition(2, RandomPopulation::CONDITIONS - ["audience"]) }
    [0, 8].each do |tail|
      with_ledger(population, tail: tail) do |generation|
        dates.each do |date|
          counts = Estrel::Lifecycle.new(generation, rule_set).counts(date, date).transform_values(&:first)
          expect(counts).to eq(reference.counts(date).slice(*counts.keys)), "seed #{seed}, #{date}"
          definitions.each do |json|
            definition = parsed(json, population)
            found = [1, 7].map do |parts|
              Estrel::Audience::PartByPart.new(generation, parts: parts, as_of: date, rule_set: rule_set).members(definition).to_a
            end
            expect(found).to eq([reference.members(json, date)] * 2), "seed #{seed}, #{date}, tail #{tail}: #{json.to_json}"
          end
        end
      end
    end
  end

  it "takes one person with half of all events" do
    first, others = people.keys.partition { |id| id == people.keys.first }
    expect_agreement(like(people.slice(*others).merge(first.to_h { |id| [id, with_events(people[id], people.values.sum { |person| person[:events].size })] })))
  end

  it "takes very many people with one event each" do
    one = ->(id) { [id, { events: [random.send(:event)], attributes: [], reach: [], profile_type: "visitor" }] }
    expect_agreement(like((1..600).to_h(&one)), [random.date])
  end

  it "takes people without any events" do
    expect_agreement(like(known(people.transform_values { |person| person.merge(events: []) })))
  end

  it "takes everything at one instant" do
    at = RandomPopulation::START + (30 * 86_400)
    expect_agreement(like(people.transform_values { |person| person.merge(events: person[:events].map { |event| event.merge(at: at) }) }), [at.to_date - 1, at.to_date, at.to_date + 9])
  end

  it "takes a history of 31 years, and instants before 1970 that an old store holds" do
    changed = people.keys.zip([-30, -61, -12, 0].cycle).to_h { |id, years| [id, shifted(people[id], years * year)] }
    longest = people.keys.last
    changed[longest] = changed[longest].merge(events: [-61, -30, 0].flat_map { |years| shifted(people[longest], years * year)[:events] })
    expect_agreement(like(known(changed)), [random.date, random.date - (365 * 30)])
  end

  it "takes an event type with 2,000 properties" do
    names = (1..2_000).map { |number| "property #{number}" }
    person = ->(value) { { events: [{ type: "wide", at: RandomPopulation::START, "property 1999": value }], attributes: [] } }
    population = Population.new({ 1 => person.call(4.0), 2 => person.call(nil), 3 => person.call(7.5) }, event_types: { "wide" => names.to_h { |name| [name, "number"] } })
    json = { "did" => { "event" => "wide", "window" => { "ever" => true }, "where" => [{ "property" => "property 1999", "compare" => "greater", "value" => 3 }],
                        "measure" => { "of" => "property 1999", "take" => "sum", "compare" => "at_least", "value" => 5 } } }
    with_ledger(population) do |generation|
      definition = Estrel::Audience::Definition.parse(json, catalogue: population.catalogue)
      expect(Estrel::Audience::Evaluator.new(generation, as_of: Date.new(2026)).members(definition).to_a).to eq([3])
    end
  end
end
