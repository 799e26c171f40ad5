# frozen_string_literal: true

RSpec.describe Estrel::Analyses::BeforeAfter do
  let(:rule_set) { Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 20) }
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
    with_ledger(population) { |ledger| yield Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, day), rule_set: rule_set), population.catalogue }
  end

  def first_pass(from = 8, to = 30) = { first: { event: "pass_bought" }, from: Date.new(2026, 5, from), to: Date.new(2026, 5, to) }

  def study(evaluator, start = first_pass, metric: { event: "ride_ended" }, rules: rule_set, stored: Estrel::Analyses::Stored.new, **around)
    analysis("before-after", { **start, metric: metric, before: 3, after: 3, **around }, evaluator.ledger, as_of: evaluator.as_of, rules: rules, stored: stored)
  end

  def found(...) = study(...).over

  def pairs(...)
    asked = study(...)
    found = asked.collect
    found.size > 1 ? asked.pairs(found) : nil
  end

  it "lays everybody's day 0 over the others', leaving out whom it cannot tell about" do
    asked do |evaluator|
      answer = found(evaluator)
      found = answer.picture
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
      expect(answer.finding).to start_with("Number of times they ended a ride changed from 0.222 to 0.444 per day for 3 people who bought a pass for the first time (95% CI −0.734 to +1.178")
    end
  end

  it "sets people beside them who were alike and did not" do
    asked do |evaluator|
      pairs = pairs(evaluator)
      # On the 11th, 5 is alike too: one ride in the three days before, and no pass before the 20th.
      # On the 9th person 1 was active with one ride in three days: so were 3 and 4; and 5, with two, is not about the same, nor 7, long inactive.
      first = pairs.filter(Polars.col("profile_id") == 1)
      expect(first["matched_id"].to_a & [3, 4]).to eq(first["matched_id"].to_a)
      expect(first.height).to eq(1)
      expect(pairs.filter(Polars.col("profile_id") == 2)["matched_id"].to_a).to all(satisfy { |id| [3, 4, 5].include?(id) })
      found = found(evaluator).picture[:matched]
      expect(found[:pairs]).to eq(pairs.height)
      expect(found[:own_after] - found[:own_before] - (found[:mean_after] - found[:mean_before])).to be_within(1e-12).of(found[:difference][:estimate])
    end
    # Without rules nobody has a state to be alike in.
    asked { |evaluator| expect(pairs(evaluator, rules: nil)).to be_nil }
  end

  it "looks around a date, at everybody or an audience, and sums numbers" do
    asked do |evaluator, catalogue|
      riders = Estrel::Audience::Definition.parse({ "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 }, "window" => { "from" => "2026-05-08" } } }, catalogue: catalogue)
      stored = AskedAnalyses::Stored.new({ 7 => riders }, nil, nil)
      answer = found(evaluator, { date: Date.new(2026, 5, 10), audience: 7 }, stored: stored, metric: { event: "ride_ended", measure: "sum", property: "km" })
      found = answer.picture
      # Those who rode on the 8th or 9th and had been known on the 7th: 1, 2, 3, 4 and 5.
      expect(found.slice(:people, :known_too_late)).to eq({ people: 5, known_too_late: 1 })
      expect(found[:mean_before]).to be_within(1e-12).of(2.0 * 6 / 15)
      expect(answer.finding).to include("Total km (ride ended) changed from 0.800 to 0.667 per day for 5 people who were in “Audience 7” on the day before 10 May 2026")
      everybody = found(evaluator, { date: Date.new(2026, 5, 10) }).picture
      expect(everybody.slice(:people, :matched)).to eq({ people: 6, matched: nil })
    end
  end

  # Of 60 who buy on the 15th, 40 ride the day after; nobody of 60 like them does. Before that all rode on the 12th.
  it "says what they gained against those like them, how alike these were, and what there was to see before" do
    crowd = (1..120).to_h do |id|
      [id, [*rides(-20, 12, 15, *(16 if id <= 40)), *([bought(15)] if id <= 60)]]
    end
    asked(crowd) do |evaluator|
      answer = found(evaluator, first_pass(15, 15))
      matched = answer.picture[:matched]
      expect(matched.slice(:pairs, :people)).to eq({ pairs: 60, people: 60 })
      # Forty of sixty rode once more in three days: 2/9 a day.
      expect(matched[:difference][:estimate]).to be_within(1e-9).of(2.0 / 9)
      expect(answer.finding).to match(/Matched people \(n = 60\) changed from 0\.333 to 0: difference \+0\.222 \(95% CI \+0\.\d+ to \+0\.\d+\)\.\z/)
      expect(matched[:placebo]).to include(pairs: 60, difference: include(estimate: 0.0))
      balance = matched[:balance].to_h { |row| [row[:key], row] }
      expect(balance["active"]).to include(all: 1.0, at_risk: 1.0, before: nil, after: nil)
      expect(balance["n"]).to include(own: 1.0, matched: 1.0)
      expect(answer.tables.map(&:key)).to eq(%w[sides balance])
    end
    few = crowd.select { |id, _| id <= 40 || id > 60 }
    asked(few) { |evaluator| expect(found(evaluator, first_pass(15, 15)).finding).to end_with("changed from 0.333 to 0: not enough people.") }
  end

  it "agrees with counting person by person" do
    Checks.seeds(8).each do |seed|
      random = RandomPopulation.new(seed)
      population = random.population
      reference = Reference.new(population, rule_set = random.rule_set)
      with_ledger(population) do |ledger|
        as_of = Date.new(2025, 11, 25)
        evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: as_of, rule_set: rule_set)
        asked = study(evaluator, { first: { event: "pass_bought" }, from: as_of - 60, to: as_of }, rules: rule_set, before: 6, after: 5)
        rounds = asked.collect
        days = ->(person, type) { person[:events].select { |row| row[:type] == type }.map { |row| reference.day(row[:at]) }.select { |day| day <= as_of } }
        zero = population.people.transform_values { |person| days.call(person, "pass_bought").min }
        looked_at = zero.select { |id, day| day && day >= as_of - 60 && day + 5 <= as_of && reference.first_seen(population.people[id]) <= day - 6 }
        found = asked.answer(rounds).picture
        expect(rounds.first[:each].select(%w[profile_id day]).rows.to_h).to eq(looked_at.transform_values { |day| Estrel::Calendar.number(day) }), "seed #{seed}"
        sums = ->(ids, at) { ids.sum { |id, day| days.call(population.people[id], "ride_ended").count(day + at) } }
        found[:series].each { |row| expect(row[:mean].to_f * looked_at.size).to be_within(1e-9).of(sums.call(looked_at, row[:day])), "seed #{seed}" }
        if looked_at.size > 1
          on = looked_at.map { |id, day| sums.call({ id => day }, 2) }
          spread = Math.sqrt(on.sum { |count| (count - on.sum.fdiv(on.size))**2 } / (on.size - 1.0) / on.size)
          row = found[:series].find { |one| one[:day] == 2 }
          expect(row[:high] - row[:mean]).to be_within(1e-9).of(spread * Estrel::Statistics::Student.quantile(on.size - 1.0)), "seed #{seed}"
        end
      end
    end
  end

  # Who is alike is told from the histories of each, one by one.
  it "sets beside each person somebody at risk and alike, and nobody twice on a day" do
    random = Random.new(seed = Checks.seed)
    crowd = (1..150).to_h do |id|
      passes = random.rand(3).zero? ? [bought(random.rand(9..20))] : []
      [id, [*rides(*Array.new(random.rand(1..4)) { random.rand(-9..20) }), *passes]]
    end
    asked(crowd) do |evaluator, _|
      days = crowd.transform_values { |events| events.group_by { |row| row[:type] }.transform_values { |rows| rows.map { |row| row[:at].to_date } } }
      zero = days.transform_values { |types| types["pass_bought"]&.min }
      reference = Reference.new(Population.new(crowd.transform_values { |events| { events: events, attributes: [] } }, event_types: types), rule_set)
      # Up to eight of anything are told apart, more of it about; how long somebody has been known by the power of two at or above it.
      like = lambda do |id, day|
        rode = days[id]["ride_ended"]
        seen = days[id].values.flatten.min
        idle = day - 1 - (rode.select { |on| on < day }.max || seen)
        counts = [idle, rode.count { |on| ((day - 3)...day).cover?(on) }].map { |count| count <= 8 ? count.to_i : (Math.log(count / 8.0) / Math.log(1.25)).ceil + 8 }
        [rode.include?(day), reference.state({ events: crowd[id], attributes: [] }, day - 1), *counts, Math.log2((day - seen).to_i).ceil]
      end
      found = pairs(evaluator, first_pass).select(%w[profile_id matched_id day]).rows.map { |id, other, number| [id, other, Estrel::Calendar.date(number)] }
      expect(found.size).to be > 10, "seed #{seed}"
      expect(found.map { |_, other, day| [other, day] }.uniq.size).to eq(found.size), "seed #{seed}"
      found.each do |id, other, day|
        expect(zero[id]).to eq(day), "seed #{seed}"
        expect(zero[other].nil? || zero[other] > day).to be(true), "seed #{seed}: #{other} beside #{id}"
        expect(like.call(other, day)).to eq(like.call(id, day)), "seed #{seed}: #{other} beside #{id}"
      end
    end
  end

  it "matches in the same way however many people are looked at at a time" do
    population = RandomPopulation.new(Checks.seed).population
    rule_set = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 20, active_within: 14, churned_after: 60)
    with_ledger(population) do |ledger|
      as_of = Date.new(2025, 11, 25)
      evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: as_of, rule_set: rule_set)
      pairs = -> { pairs(evaluator, { first: { event: "pass_bought" }, from: as_of - 120, to: as_of }, rules: rule_set, before: 4, after: 3)&.rows }
      at_once = pairs.call
      stub_const("Estrel::Analyses::BeforeAfter::Matching::FIRST", 1)
      stub_const("Estrel::Analyses::BeforeAfter::Matching::ROWS", 7)
      expect(pairs.call).to eq(at_once)
    end
  end

  it "refuses what makes no sense" do
    asked do |evaluator|
      { { from: "2026-05-30", to: "2026-05-08" } => /must have 1 to 184 days/, { metric: { event: "rode" } } => /no event type/, { before: 0 } => /"Before" must be/,
        { metric: { event: "ride_ended", measure: "sum", property: "miles" } } => /a number/, { first: nil } => /choose what was done/, { hue: 3 } => /"Hue" is not a known field/ }.each do |wrong, message|
        expect { found(evaluator, { **first_pass, **wrong.slice(:from, :to, :first) }, **wrong.except(:from, :to, :first)) }.to raise_error(Estrel::Analyses::Invalid, message), wrong.to_s
      end
      empty = found(evaluator, first_pass(1, 2))
      expect(empty.picture).to include(people: 0, difference: nil, matched: nil)
      expect(empty.finding).to eq("No result yet: 0 people bought a pass for the first time between 1 May 2026 and 2 May 2026.")
    end
  end
end
