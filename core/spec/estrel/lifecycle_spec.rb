# frozen_string_literal: true

# Worked by hand: new_for 5, dormant from 7 inactive days, churned from 20.
RSpec.describe Estrel::Lifecycle do
  let(:rule_set) do
    Estrel::Lifecycle::RuleSet.new(activity: ["ride"], new_for: 5, active_within: 7, churned_after: 20)
  end

  def ride(*days) = { events: days.map { |day| { type: "ride", at: Time.utc(2026, 5, day, 12) } }, attributes: [] }

  def states(people, date)
    with_ledger(Population.new(people, event_types: { "ride" => {} })) do |generation|
      frame = described_class.new(generation, rule_set).states(date)
      frame.rows.to_h { |id, state, reactivated, *| [id, reactivated ? "#{state}, reactivated" : state] }
    end
  end

  it "separates the states exactly at new_for, active_within and churned_after" do
    person = { 1 => ride(1) }
    { 1 => "new", 5 => "new", 6 => "active", 7 => "active", 8 => "dormant", 20 => "dormant", 21 => "churned" }
      .each { |day, state| expect(states(person, Date.new(2026, 5, day))).to eq({ 1 => state }), "on 0#{day} May" }
    expect(states(person, Date.new(2026, 4, 30))).to eq({ 1 => "never_active" })
  end

  it "marks who were reactivated after being dormant, for less than active_within days" do
    # A gap of 7 days holds 6 inactive ones: never dormant. A gap of 8 holds 7: dormant on the day before.
    expect(states({ 1 => ride(1, 8), 2 => ride(1, 9) }, Date.new(2026, 5, 9)))
      .to eq({ 1 => "active", 2 => "active, reactivated" })
    expect(states({ 2 => ride(1, 9, 12) }, Date.new(2026, 5, 15))).to eq({ 2 => "active, reactivated" })
    expect(states({ 2 => ride(1, 9, 12) }, Date.new(2026, 5, 16))).to eq({ 2 => "active" })
  end

  it "counts every day of a range in one pass, adding up to the people seen by then" do
    people = { 1 => ride(1), 2 => ride(3, 4), 3 => ride(10) }
    with_ledger(Population.new(people, event_types: { "ride" => {} })) do |generation|
      counts = described_class.new(generation, rule_set).counts(Date.new(2026, 5, 2), Date.new(2026, 5, 11))
      expect(counts).to eq("never_active" => [0] * 10, "new" => [1, 2, 2, 2, 1, 1, 0, 0, 1, 1],
                           "active" => [0, 0, 0, 0, 1, 1, 1, 1, 1, 0], "dormant" => [0, 0, 0, 0, 0, 0, 1, 1, 1, 2],
                           "churned" => [0] * 10)
    end
  end

  it "refuses thresholds and ranges that make no sense" do
    make = ->(**changes) { Estrel::Lifecycle::RuleSet.new(**rule_set.to_h.transform_keys(&:to_sym), **changes) }
    expect do
      make.call(new_for: 0)
    end.to raise_error(Estrel::Lifecycle::RuleSet::Invalid, /"New for" must be a whole number/)
    expect { make.call(active_within: 1.5) }.to raise_error(Estrel::Lifecycle::RuleSet::Invalid, /"Active within"/)
    expect do
      make.call(churned_after: 7)
    end.to raise_error(Estrel::Lifecycle::RuleSet::Invalid, /churned must start later than dormant: enter more than 7 day/)
    expect { make.call(activity: []) }.to raise_error(Estrel::Lifecycle::RuleSet::Invalid, /at least one event type/)
    with_ledger(Population.new({ 1 => ride(1) }, event_types: { "ride" => {} })) do |generation|
      lifecycle = described_class.new(generation, rule_set)
      expect { lifecycle.counts(Date.new(2026, 5, 2), Date.new(2026, 5, 1)) }
        .to raise_error(Estrel::Lifecycle::Steps::Invalid, /ends .* before it starts/)
      expect { lifecycle.counts(Date.new(1900, 1, 1), Date.new(2026, 5, 1)) }.to raise_error(/at most/)
    end
  end

  it "says nothing about a day that has not ended" do
    with_ledger(Population.new({ 1 => ride(1, 23) }, event_types: { "ride" => {} })) do |generation|
      question = { "from" => "2026-05-24", "step" => "day" }
      ask = ->(asked, **dates) { analysis("states", asked, generation, rules: rule_set, **dates).over }
      found = ->(today) { ask.call(question, as_of: Date.new(2026, 5, 25), today: today) }
      expect(found.call(Date.new(2026, 5, 25)).finding).to start_with("1 person new or active on 24 May 2026")
      expect(found.call(Date.new(2026, 5, 25)).caveats.join).to include("25 May 2026 has not ended")
      expect(found.call(Date.new(2026, 5, 26)).finding).to start_with("1 person new or active on 25 May 2026, 100% of 1: ±0 since 23 May 2026")
    end
  end

  it "compares nothing with days before which nobody could have churned yet" do
    with_ledger(Population.new({ 1 => ride(1) }, event_types: { "ride" => {} })) do |generation|
      finding = ->(from) { analysis("states", { "from" => from, "step" => "day" }, generation, rules: rule_set, as_of: Date.new(2026, 5, 23), today: Date.new(2026, 5, 24)).over.finding }
      expect(finding.call("2026-05-21")).to eq("0 people new or active on 23 May 2026, 0% of 1.")
      expect(finding.call("2026-05-22")).to end_with("0% of 1: ±0 since 21 May 2026 (dormant ±0, churned ±0).")
    end
  end

  # Orders since January, rides since 1 May; churned is who has been inactive for ten days, so states are settled on 11 May.
  it "says nothing of states before activity is old enough, however old other events are" do
    people = { 1 => { events: [{ type: "ordered", at: Time.utc(2026, 1, 5) }, { type: "rode", at: Time.utc(2026, 5, 1, 9) }, { type: "rode", at: Time.utc(2026, 5, 12, 9) }], attributes: [] } }
    with_ledger(Population.new(people, event_types: { "ordered" => {}, "rode" => {} })) do |ledger|
      rules = Estrel::Lifecycle::RuleSet.new(activity: ["rode"], new_for: 2, active_within: 3, churned_after: 10)
      told = ->(from) { analysis("state-movement", { from: from }, ledger, as_of: Date.new(2026, 5, 14), rules: rules).over.finding }
      expect(told.call("2026-05-10")).to start_with("No finding: activity starts on 1 May 2026")
      expect(told.call("2026-05-11")).to start_with("From 11 May 2026 to 14 May 2026 0 joined, 1 were reactivated")
    end
  end

  # Everybody rides on 1 May; of each group so many ride again on 21 May, and so many come on the 22nd.
  def groups_of(sizes)
    people = sizes.each_with_index.flat_map do |(stay, lapse, come), index|
      days = ([[1, 21]] * stay) + ([[1]] * lapse) + ([[22]] * come)
      days.map { |ridden| { **ride(*ridden), attributes: [{ name: "plan", at: Time.utc(2026, 4, 30), value: "p#{index}" }] } }
    end
    Population.new(people.each_with_index.to_h { |person, id| [id + 1, person] }, event_types: { "ride" => {} }, attributes: { "plan" => "text" })
  end

  it "compares groups only where they are large, old enough and differ by more than chance" do
    rules = Estrel::Lifecycle::RuleSet.new(activity: ["ride"], new_for: 2, active_within: 21, churned_after: 22)
    told = lambda do |sizes, from: "2026-05-24", to: Date.new(2026, 5, 31)|
      with_ledger(groups_of(sizes)) { |ledger| return analysis("states-by-group", { from: from, step: "day", by: { attribute: "plan" } }, ledger, as_of: to, rules: rules, today: Date.new(2026, 6, 30)).over.finding }
    end
    early = "2026-05-11"
    expect(told.call([[40, 30, 30], [40, 30, 30]], from: early)).to eq("Not enough data: activity begins on 1 May 2026, and no one can have churned until 23 May 2026.")
    expect(told.call([[3, 2, 1], [3, 1, 2]])).to start_with("Not enough data: no two groups of 50 or more people")
    expect(told.call([[0, 0, 0]], to: Date.new(2026, 5, 24))).to eq("No one was known by 24 May 2026.")
  end

  # Groups drawn from the same crowd, many times over.
  it "claims that gain/loss ratios differ at most one time in twenty where they do not" do
    random = Random.new(3)
    poisson = ->(mean) { (0..).reduce([0, Math.exp(-mean), random.rand]) { |(n, p, u), _| u < p ? (break n) : [n + 1, p * mean / (n + 1), u - p] } }
    analysis = Estrel::Analyses::StatesByGroup.allocate
    claims = Array.new(2000) do
      rows = Array.new(4) { { parts: { "joined" => poisson[30], "reactivated" => poisson[10], "lapsed" => poisson[35] } } }
      high, low = rows.minmax_by { |row| -(row[:parts]["joined"] + row[:parts]["reactivated"]).fdiv(row[:parts]["lapsed"]) }
      analysis.send(:differ?, high, low, rows)
    end
    expect(claims.count(true)).to be <= 120 # of 2,000, 100 and two standard deviations
    expect(analysis.send(:differ?, *[[80, 20], [40, 60]].map { |gained, lapsed| { parts: { "joined" => gained, "reactivated" => 0, "lapsed" => lapsed } } }, [1, 2])).to be(true)
  end

  # 1 and 2 ride on 1 and 8 May, 3 on the 5th, 4 rode on 20 April. 1 goes from a day pass to a year's on the 4th, 2 has a day pass from the 1st on, 3 gets one on the 6th, 4 a year's on the 3rd.
  it "tells groups apart by what people were at the time, where that was recorded" do
    plans = { 1 => [[1, "day"], [4, "year"]], 2 => [[1, "day"]], 3 => [[6, "day"]], 4 => [[3, "year"]] }
    rides = { 1 => ride(1, 8), 2 => ride(1, 8), 3 => ride(5), 4 => { events: [{ type: "ride", at: Time.utc(2026, 4, 20, 12) }] } }
    people = plans.to_h { |id, values| [id, { **rides[id], attributes: values.map { |day, plan| { name: "plan", at: Time.utc(2026, 5, day, 8), value: plan } } }] }
    with_ledger(Population.new(people, event_types: { "ride" => {} }, attributes: { "plan" => "text" })) do |ledger|
      told = lambda do |from, parts = 1|
        answer = analysis("states-by-group", { from: from, step: "day", by: { attribute: "plan" } }, ledger, as_of: Date.new(2026, 5, 9), rules: rule_set, parts: parts).over
        [answer.picture[:rows].to_h { |row| [row[:value], [row[:people], row[:before].values.sum, row[:parts].values_at("joined", "retained")]] }, answer.caveats.join]
      end
      # By day passes from the end of 2 May: 1 and 2 at first; retained 2 + 2 (to the 4th), then 2 alone for five days, and 3 from the 7th on for three; she joined without a pass.
      by, caveat = told.call("2026-05-03")
      expect(by).to eq({ "day" => [2, 2, [0, 2 + 2 + 5 + 3]], "year" => [2, 0, [0, 5]], nil => [0, 1, [1, 1]] })
      expect(caveat).to eq("Groups are as of each date; for a period, as of its start.")
      expect(told.call("2026-05-03", 3)).to eq(told.call("2026-05-03"))
      # Before 1 May nothing is recorded, so 4 counts as what she is on the 9th; those of the 1st join with the pass of that day.
      early, caveat = told.call("2026-04-25")
      expect(early.transform_values { |row| [row[1], row.last.first] }).to eq({ "day" => [0, 2], "year" => [1, 0], nil => [0, 1] })
      expect(caveat).to end_with("History starts on 1 May 2026; before that, the value on 9 May 2026 is used.")
    end
  end

  # One person and one date at a time: in which group she is is drawn for each date, or none.
  it "counts people at each date by the group they are in then, and over periods by the one they were in before" do
    Checks.seeds(6).each do |seed|
      random = RandomPopulation.new(seed)
      rules = random.rule_set
      from, to = [random.date, random.date].sort
      with_ledger(random.population) do |ledger|
        part = Estrel::Audience::Evaluator.new(ledger, as_of: to, rule_set: rules)
        steps = Estrel::Lifecycle::Steps.covering(%w[day week].sample(random: Random.new(seed)), from, to)
        draw = Random.new(seed)
        groups = steps.dates.map { ledger.ids.to_a.map { [nil, 0, 1, 2].sample(random: draw) } }
        found = Estrel::Lifecycle::Regrouped.of(part, steps, 3, Polars::Series.new("group", groups.flatten, dtype: Polars::Int32))
        known = steps.dates.map { |date| ledger.profiles["first_seen_day"].to_a.map { |day| day <= Estrel::Calendar.number(date) } }
        states = steps.dates.zip(known).map do |date, seen|
          part.states(date)["state"].to_a.zip(seen).map { |state, there| state if there }
        end
        counted = steps.dates.each_index.map { |at| groups[at].zip(states[at]).select { |pair| pair.none?(&:nil?) }.tally }
        moved = steps.dates.each_index.to_a.each_cons(2).map do |one, other|
          ledger.ids.to_a.each_index.filter_map do |who|
            group = (groups[one][who] if states[one][who]) || groups[other][who]
            state = states[other][who]
            [group, states[one][who] || "never_active", state] if group && state
          end.tally
        end
        3.times do |group|
          expect(steps.dates.each_index.map { |at| found[group].states(at) }).to eq(counted.map { |counts| Estrel::Lifecycle::STATES.to_h { |state| [state, counts.fetch([group, state], 0)] } }), "seed #{seed}"
          tables = moved.map { |counts| Estrel::Lifecycle::STATES.map { |before| Estrel::Lifecycle::STATES.map { |after| counts.fetch([group, before, after], 0) } } }
          expect(found[group].movements.map(&:table)).to eq(tables), "seed #{seed}"
        end
      end
    end
  end
end
