# frozen_string_literal: true

RSpec.describe Estrel::BeforeAfter do
  let(:policy) { Estrel::Lifecycle::Policy.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 20) }
  let(:types) { { "ride_ended" => { "km" => "number" }, "pass_bought" => {} } }
  # Day 0 is the 10th or 11th; three days on each side.
  let(:people) do
    { 1 => [*rides(1, 8, 11, 12, 13), bought(10), bought(12)], 2 => [*rides(1, 9), bought(11), *rides(11, 14)],
      3 => rides(1, 8, 12), 4 => rides(1, 2, 8), 5 => [*rides(2, 3, 4, 7, 8), bought(20)], 6 => [*rides(9, 12), bought(10)], 7 => [*rides(1), bought(29)] }
  end

  def at(day) = Time.utc(2026, 5, 1, 12) + ((day - 1) * 86_400)

  def rides(*days, km: 2.0) = days.map { |day| { type: "ride_ended", at: at(day), km: km } }

  def bought(day) = { type: "pass_bought", at: at(day) }

  def asked(people = self.people, day: 30, &)
    population = Population.new(people.transform_values { |events| { events: events, attributes: [] } }, event_types: types)
    with_ledger(population) { |ledger| yield Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, day), policy: policy), population.catalogue }
  end

  def first_pass(catalogue, from = 8, to = 30) = described_class::Start.first(Estrel::Audience::Selection.parse({ "event" => "pass_bought" }, catalogue), Date.new(2026, 5, from), Date.new(2026, 5, to))

  def study(evaluator, catalogue, property = nil, **changes)
    described_class.new(evaluator, changes.fetch(:start, first_pass(catalogue)), described_class::Measure.new(catalogue, "ride_ended", property), before: 3, after: 3)
  end

  it "lays everybody's day 0 over the others', leaving out whom it cannot tell about" do
    asked do |evaluator, catalogue|
      found = study(evaluator, catalogue).to_h
      # 6 had been known for a day only; of 7 the days after are not over; of 5 there are days with nothing.
      expect(found.slice(:people, :known_too_late, :not_over)).to eq({ people: 3, known_too_late: 1, not_over: 1 })
      means = found[:series].to_h { |row| [row[:day], (row[:mean] * 3).round(9)] }
      expect(means).to eq({ -3 => 0, -2 => 2, -1 => 0, 0 => 1, 1 => 1, 2 => 1, 3 => 2 })
      # Two of three rode once two days before: mean 2/3, standard deviation 0.57735, so 4.30265 times 1/3 to each side; the one ride of
      # day 0 likewise.
      interval = ->(day) { found[:series].find { |row| row[:day] == day }.values_at(:low, :high).map { |value| value.round(4) } }
      expect([-3, -2, 0].map(&interval)).to eq([[0.0, 0.0], [-0.7676, 2.1009], [-1.1009, 1.7676]])
      # Per person and day: 1 from 1/3 to 1, 2 from 1/3 to 1/3, 5 from 0 to 0.
      expect(found[:mean_before]).to be_within(1e-12).of(2.0 / 9)
      expect(found[:mean_after]).to be_within(1e-12).of(4.0 / 9)
      # Mean 2/9, standard deviation 0.3849; t of 2 degrees of freedom 4.30265.
      expect(found[:difference].transform_values { |value| value.round(4) }).to eq({ estimate: 0.2222, low: -0.7339, high: 1.1784, p_value: 0.4226 })
      expect(found[:takeaway]).to start_with("3 people bought a pass for the first time: ride_ended went from 0.222 to 0.444 per person and day (−0.734 to +1.178")
    end
  end

  it "sets people beside them who were alike and did not" do
    asked do |evaluator, catalogue|
      pairs = study(evaluator, catalogue).pairs
      # On the 11th, 5 is alike too: one ride in the three days before, and no pass before the 20th.
      # On the 9th person 1 was active with one ride in three days: so were 3 and 4; and 5, with two, is not about the same, nor 7, long quiet.
      first = pairs.filter(Polars.col("profile_id") == 1)
      expect(first["matched_id"].to_a & [3, 4]).to eq(first["matched_id"].to_a)
      expect(first.height).to eq(1)
      expect(pairs.filter(Polars.col("profile_id") == 2)["matched_id"].to_a).to all(satisfy { |id| [3, 4, 5].include?(id) })
      found = study(evaluator, catalogue).to_h[:matched]
      expect(found[:pairs]).to eq(pairs.height)
      expect(found[:own_after] - found[:own_before] - (found[:mean_after] - found[:mean_before])).to be_within(1e-12).of(found[:difference][:estimate])
    end
    # Without a policy nobody has a state to be alike in.
    asked { |evaluator, catalogue| expect(study(Estrel::Audience::Evaluator.new(evaluator.ledger, as_of: evaluator.as_of), catalogue).pairs).to be_nil }
  end

  it "looks around a date, at everybody or an audience, and sums numbers" do
    asked do |evaluator, catalogue|
      riders = Estrel::Audience::Definition.parse({ "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 }, "window" => { "from" => "2026-05-08" } } }, catalogue: catalogue)
      start = described_class::Start.date(Date.new(2026, 5, 10), riders, name: "Riders")
      found = study(evaluator, catalogue, "km", start: start).to_h
      # Those who rode on the 8th or 9th and had been known on the 7th: 1, 2, 3, 4 and 5.
      expect(found.slice(:people, :known_too_late)).to eq({ people: 5, known_too_late: 1 })
      expect(found[:mean_before]).to be_within(1e-12).of(2.0 * 6 / 15)
      expect(found[:takeaway]).to include("who were in “Riders” before 10 May 2026: the sum of km of ride_ended")
      everybody = study(evaluator, catalogue, start: described_class::Start.date(Date.new(2026, 5, 10))).to_h
      expect(everybody.slice(:people, :matched)).to eq({ people: 6, matched: nil })
    end
  end

  it "finds an effect that is there, and none where there is none" do
    random = Random.new(11)
    riding = ->(rate, days) { rides(*days.select { random.rand < rate }) }
    crowd = (1..400).to_h do |id|
      rate = 0.2 + (0.3 * random.rand)
      doer = id.odd?
      [id, [*rides(-40), *riding.call(rate, -20..15), *riding.call(doer && id % 4 == 1 ? [rate + 0.3, 1].min : rate, 16..40), *(doer ? [bought(15)] : [])]]
    end
    good, none = [1, 3].map do |rest|
      people = crowd.select { |id, _| id.even? || id % 4 == rest }
      asked(people, day: 31) do |evaluator, catalogue|
        described_class.new(evaluator, first_pass(catalogue, 10), described_class::Measure.new(catalogue, "ride_ended"), before: 14, after: 14).to_h[:matched]
      end
    end
    expect(good[:pairs]).to be > 60
    expect(good[:difference]).to include(low: (be > 0.15), high: (be < 0.45))
    expect(none[:difference]).to include(low: be_negative, high: be_positive)
  end

  it "agrees with counting person by person" do
    8.times do
      seed = Random.rand(1 << 32)
      random = RandomPopulation.new(seed)
      population = random.population
      reference = Reference.new(population, policy = random.policy)
      with_ledger(population) do |ledger|
        as_of = Date.new(2025, 11, 25)
        evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: as_of, policy: policy)
        start = described_class::Start.first(Estrel::Audience::Selection.parse({ "event" => "pass_bought" }, population.catalogue), as_of - 60, as_of)
        asked = described_class.new(evaluator, start, described_class::Measure.new(population.catalogue, "ride_ended"), before: 6, after: 5)
        days = ->(person, type) { person[:events].select { |row| row[:type] == type }.map { |row| reference.day(row[:at]) }.select { |day| day <= as_of } }
        zero = population.people.transform_values { |person| days.call(person, "pass_bought").min }
        looked_at = zero.select { |id, day| day && day >= as_of - 60 && day + 5 <= as_of && reference.first_seen(population.people[id]) <= day - 6 }
        found = asked.to_h
        expect(asked.people.select(%w[profile_id day]).rows.to_h).to eq(looked_at.transform_values { |day| Estrel::Calendar.number(day) }), "seed #{seed}"
        sums = ->(ids, at) { ids.sum { |id, day| days.call(population.people[id], "ride_ended").count(day + at) } }
        found[:series].each { |row| expect(row[:mean].to_f * looked_at.size).to be_within(1e-9).of(sums.call(looked_at, row[:day])), "seed #{seed}" }
        if looked_at.size > 1
          on = looked_at.map { |id, day| sums.call({ id => day }, 2) }
          spread = Math.sqrt(on.sum { |count| (count - on.sum.fdiv(on.size))**2 } / (on.size - 1.0) / on.size)
          row = found[:series].find { |one| one[:day] == 2 }
          expect(row[:high] - row[:mean]).to be_within(1e-9).of(spread * Estrel::Statistics.t_quantile(on.size - 1.0)), "seed #{seed}"
        end
        asked.pairs&.rows&.each do |id, other, number|
          day = Estrel::Calendar.date(number)
          expect([zero[id], zero[other].nil? || zero[other] > day + 5, reference.state(population.people[id], day - 1)]).to eq([day, true, reference.state(population.people[other], day - 1)]), "seed #{seed}"
        end
      end
    end
  end

  it "matches in the same way however many people are looked at at a time" do
    population = RandomPopulation.new(Random.rand(1 << 32)).population
    policy = Estrel::Lifecycle::Policy.new(activity: ["ride_ended"], new_for: 20, active_within: 14, churned_after: 60)
    with_ledger(population) do |ledger|
      as_of = Date.new(2025, 11, 25)
      start = described_class::Start.first(Estrel::Audience::Selection.parse({ "event" => "pass_bought" }, population.catalogue), as_of - 120, as_of)
      pairs = lambda do
        evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: as_of, policy: policy)
        described_class.new(evaluator, start, described_class::Measure.new(population.catalogue, "ride_ended"), before: 4, after: 3).pairs&.rows&.sort
      end
      at_once = pairs.call
      stub_const("Estrel::BeforeAfter::Matching::FIRST", 1)
      stub_const("Estrel::BeforeAfter::Matching::ROWS", 7)
      expect(pairs.call).to eq(at_once)
    end
  end

  it "refuses what makes no sense" do
    asked do |evaluator, catalogue|
      expect { first_pass(catalogue, 30, 8) }.to raise_error(described_class::Invalid)
      expect { described_class::Measure.new(catalogue, "rode") }.to raise_error(described_class::Invalid, /no event type/)
      expect { described_class::Measure.new(catalogue, "ride_ended", "miles") }.to raise_error(described_class::Invalid, /a number/)
      expect { described_class.new(evaluator, first_pass(catalogue), described_class::Measure.new(catalogue, "ride_ended"), before: 0, after: 3) }.to raise_error(described_class::Invalid)
      empty = study(evaluator, catalogue, start: first_pass(catalogue, 1, 2)).to_h
      expect(empty).to include(people: 0, difference: nil, matched: nil)
      expect(empty[:takeaway]).to eq("Nobody can be looked at: nobody bought a pass for the first time between 1 May 2026 and 2 May 2026.")
    end
  end
end
