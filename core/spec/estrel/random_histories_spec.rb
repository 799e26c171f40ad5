# frozen_string_literal: true

# The fast path against the reference, on random histories. A failure names its seed and the smallest case that still
# fails; `bin/test --seed N` repeats the run.
RSpec.describe "random histories against the reference" do
  seeds = Checks.seeds(40, every_run: 10)

  # Fails, with the smallest people and definition that still disagree, unless a block's two answers are the same.
  def agree(population, json, about, seed, &)
    disagree = lambda do |people, definition|
      smaller = Population.new(people, **population.settings)
      with_ledger(smaller, tail: seed) { |generation| yield(smaller, generation, definition).uniq.size > 1 }
    end
    return unless disagree.call(population.people, json)

    people, smallest = Shrinker.new(population.people, json, disagree).smallest
    raise RSpec::Expectations::ExpectationNotMetError, "#{about}\n#{smallest.to_json}\n#{people.inspect}\nin full: #{json.to_json}"
  end

  seeds.each do |seed|
    it "agrees on states, counts and audiences (seed #{seed})" do
      random = RandomPopulation.new(seed)
      population = random.population
      rule_set = random.rule_set
      audiences = random.audiences
      reference = Reference.new(population, rule_set, audiences)

      with_ledger(population, tail: seed) do |generation|
        # Every fourth time as if profiles and instants were too many for one number each.
        allow(generation.timeline).to receive(:fits?).and_return(false) if (seed % 4).zero?
        lifecycle = Estrel::Lifecycle.new(generation, rule_set)
        Array.new(3) { random.date }.each do |date|
          expected = population.people.keys.sort.map do |id|
            person = population.people[id]
            [id, reference.state(person, date), reference.reactivated?(person, date)]
          end
          expect(lifecycle.states(date).select(%w[profile_id state reactivated]).rows).to eq(expected)
        end

        from, to = [random.date, random.date].sort
        expected = (from..to).map { |date| reference.counts(date) }
        expect(lifecycle.counts(from, to)).to eq(
          Reference::STATES.to_h { |state| [state, expected.map { |counts| counts[state] }] }
        )

        60.times do
          json = random.definition
          date = random.date
          definition = parsed(json, population, audiences)
          evaluator = Estrel::Audience::Evaluator.new(generation, as_of: date, rule_set: rule_set)
          if evaluator.members(definition).to_a == reference.members(json, date) && evaluator.size(definition) == reference.members(json, date).size
            next
          end

          agree(population, json, "as of #{date}, #{rule_set.to_h}, audiences #{audiences}", seed) do |people, ledger, smaller|
            found = Estrel::Audience::Evaluator.new(ledger, as_of: date, rule_set: rule_set).members(parsed(smaller, people, audiences))
            [found.to_a, Reference.new(people, rule_set, audiences).members(smaller, date)]
          end
        end

        # Using data received by a date: as if what was received later had never been.
        date = random.date
        before = population.received_by(date)
        known = generation.received_by(date)
        reference = Reference.new(before, rule_set, audiences)
        10.times do
          json = random.definition
          as_of = [random.date, date].min
          found = Estrel::Audience::Evaluator.new(known, as_of: as_of, rule_set: rule_set).members(parsed(json, population, audiences))
          expect(found.to_a).to eq(reference.members(json, as_of)), "as of #{as_of}, known on #{date}: #{json.to_json}"
        end
      end
    end
  end

  it "answers the same from 1, 2 and 7 parts, and one by one person" do
    seed = Checks.seed
    random = RandomPopulation.new(seed)
    population = random.population
    asked = { as_of: random.date, rule_set: random.rule_set }
    with_ledger(population, tail: seed) do |generation|
      split = Estrel::Audience::Split.parse({ "attribute" => "plan" }, population.catalogue)
      audiences = random.audiences
      definitions = Array.new(30) { parsed(random.definition, population, audiences) }
      answers = [1, 2, 7].map do |parts|
        evaluator = Estrel::Audience::PartByPart.new(generation, parts: parts, **asked)
        [evaluator.base, evaluator.combinations(definitions.first(5), split), definitions.map do |definition|
          [evaluator.members(definition).to_a, evaluator.size(definition), evaluator.steps(definition), evaluator.state_mix(definition),
           evaluator.reachable(definition), evaluator.undecided(definition), evaluator.movement(definition, asked[:as_of] - 9)]
        end]
      end
      expect(answers.uniq.size).to eq(1), "seed #{seed}"
      members = answers.first.last.map(&:first)
      one_by_one = definitions.map do |definition|
        population.people.keys.sort.select { |id| Estrel::Audience::Why.new(generation, id, **asked).member?(definition) }
      end
      expect(one_by_one).to eq(members), "seed #{seed}"
      # Every condition says why, also of those who have done nothing.
      explained = definitions.map do |definition|
        population.people.keys.sort.select do |id|
          why = Estrel::Audience::Why.new(generation, id, **asked)
          why.seen? && why.verdicts(definition).all?(&:holds)
        end
      end
      expect(explained).to eq(members), "seed #{seed}"
    end
  end

  it "asks as many parts as it takes for profiles and instants to have numbers" do
    ids = ->(count) { Polars::Series.new("profile_id", [1, count], dtype: Polars::Int64) }
    year = 365 * 86_400 * 1_000_000
    expect(Estrel::Ledger::Timeline.parts(ids.call(100_000), year)).to eq(1)
    parts = Array.new(4) { |power| Estrel::Ledger::Timeline.parts(Polars::Series.new("profile_id", (0..9).map { |id| id * (10**(5 + power)) }), 2 * year) }
    expect(parts).to eq([7, 10, 10, 10])
  end

  it "makes a failing case small" do
    population = RandomPopulation.new(7).population
    fails = ->(people, json) { people.values.any? { |person| person[:events].size > 1 } && json.to_s.include?("plan") }
    people, json = Shrinker.new(population.people, { "all" => [{ "any" => [] }, { "attribute" => { "name" => "plan" } }] }, fails).smallest
    expect(people.values.map { |person| person[:events].size }).to eq([2])
    expect(json).to eq({ "name" => "plan" })
  end
end
