# frozen_string_literal: true

RSpec.describe Estrel::Analyses::ExportEffect do
  # Four hundred people who rode on 1 May. Of the first three hundred, who are exported at noon on 10 May, 180 ride on the
  # 12th; of the other hundred ten. Whoever rides pays 2.
  let(:rides) { (1..400).to_h { |id| [id, [at(1), *([at(12)] if id <= 180 || (301..310).cover?(id))]] } }

  def at(day, hour = 10) = Time.utc(2026, 5, 1, hour) + ((day - 1) * 86_400)

  def micros(time) = time.to_i * Estrel::Calendar::MICROS

  def ids(range) = Polars::Series.new("profile_id", range.to_a, dtype: Polars::Int64)

  def run(exported: 1..300, held: 301..400, sent: at(10, 12), **more)
    Estrel::Analyses::Stored::Run.new(id: 1, as_of: Date.new(2026, 5, 9), at: micros(sent), exported: ids(exported), holdout: ids(held), **more)
  end

  def stored(runs)
    Estrel::Analyses::Stored.new.tap do |stored|
      stored.define_singleton_method(:run) { |_| runs.first }
      stored.define_singleton_method(:runs_of) { |_| runs }
    end
  end

  # Rides as instants or pairs of an instant and what was paid.
  def effect(metric, runs = [run], rides: self.rides, as_of: Date.new(2026, 6, 1), plans: {}, parts: 1, **question)
    people = rides.to_h do |id, rows|
      events = rows.map { |time, price| { type: "ride_ended", at: time, price: price || 2.0 } }
      [id, { events: events, attributes: (plans[id] || []).map { |time, plan| { name: "plan", at: time, value: plan } } }]
    end
    with_ledger(Population.new(people, event_types: { "ride_ended" => { "price" => "number" } }, attributes: { "plan" => "text" })) do |ledger|
      rules = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 20)
      which = question.key?(:export) ? {} : { run: 1 }
      analysis("export-effect", { **which, metric: metric, **question }, ledger, as_of: as_of, rules: rules, stored: stored(runs), parts: parts).over
    end
  end

  def rode(...) = effect({ event: "ride_ended", measure: "people" }, ...)

  def paid(...) = effect({ event: "ride_ended", measure: "sum", property: "price" }, ...)

  def some(answer) = answer.picture[:groups].map { |group| group.values_at(:people, :some) }

  it "compares those exported with the holdout, by what they did" do
    answer = rode(by: { "state" => true })
    found = answer.picture
    expect(some(answer)).to eq([[300, 180], [100, 10]])
    expect(found).to include(from: Date.new(2026, 5, 10), to: Date.new(2026, 5, 24), complete: true, young: 0, plan: false)
    expect(found[:difference]).to eq(Estrel::Statistics::Shares.difference(180, 300, 10, 100))
    # Half of three hundred came of it.
    expect(found[:total][:estimate]).to be_within(1e-9).of(150)
    # Pooled share 190/400, standard error sqrt(0.475 * 0.525 * (1/300 + 1/100)) = 0.05766, z = 8.671.
    expect(found[:p_value]).to be_within(1e-20).of(Estrel::Statistics::Normal.two_sided(0.5 / Math.sqrt(0.475 * 0.525 / 75)))
    expect(answer.finding).to start_with("Significantly higher than the control group: 60.0% of exported people vs 10.0% of the holdout ended a ride (95% CI of the difference +")
    expect(found[:curve].map { |row| row[:exported][:mean] }.first(4)).to eq([0.0, 0.0, 0.6, 0.6])
    expect(found[:curve].last[:held]).to eq({ mean: 0.1, **%i[low high].zip(Estrel::Statistics::Shares.wilson(10, 100)).to_h })
    expect(answer.tables.map(&:key)).to eq(%w[groups values days])
  end

  it "counts from the instant of the run, whatever it was as of, to the end of the days" do
    rows = { [1, 50] => [at(10, 11)], [51, 100] => [at(10, 13)], [301, 320] => [at(24, 23)], [321, 340] => [at(25, 1)], [341, 360] => [at(9, 20)] }
    rides = (1..400).to_h { |id| [id, [at(1), *rows.find { |(from, to), _| id.between?(from, to) }&.last]] }
    # Those who rode on the morning of the run were back before it; those of the evening before were not inactive.
    expect(some(rode(rides: rides))).to eq([[300, 50], [100, 20]])
    expect(some(effect(nil, rides: rides))).to eq([[250, 50], [80, 20]])
    early = rode(rides: rides, as_of: Date.new(2026, 5, 12))
    expect(early.finding).to eq("Preliminary until the end of 24 May 2026: 16.7% of exported people vs 0.0% of the holdout ended a ride.")
    expect(early.picture.values_at(:difference, :relative, :p_value, :total, :adjusted)).to eq([nil] * 5)
    expect(early.picture[:curve].map { |row| row[:day] }).to eq([0, 1, 2])
    expect(rode(rides: rides, as_of: Date.new(2026, 5, 9)).finding).to eq("No result yet: this run exported on 10 May 2026, after the as-of date.")
  end

  it "measures sums per person up to where few have more, and who came back, be they gone again since" do
    answer = paid
    expect(answer.picture[:groups].map { |group| group[:mean] }).to eq([1.2, 0.2])
    expect(answer.picture[:relative][:estimate]).to be_within(1e-9).of(5.0)
    expect(some(effect(nil))).to eq([[300, 180], [100, 10]])
    price = ->(id, time) { { 21 => 1e6, 301 => 5.0 }.fetch(id) { id <= 20 ? id.to_f : 0.0 } * (time == at(1) ? 0 : 1) }
    cut = paid(rides: rides.to_h { |id, rows| [id, rows.map { |time| [time, price.call(id, time)] }] })
    # Of 1 to 20, a million and 5 of the holdout, the 95th percentile lies at 0.95 * 21 = 19.95 steps: 19 (the twentieth) and 0.95 of the way to 20.
    expect(cut.picture[:cut]).to be_within(1e-9).of(19.95)
    expect(cut.picture[:groups].first[:mean]).to be_within(1e-9).of((190 + (2 * 19.95)) / 300)
    expect(cut.finding).to match(/Sums are capped at \d\d\.\d\d per person \(95th percentile\)\./)
    expect(cut.tables.first.columns.map(&:key)).to include("uncut")
    owed = paid(rides: rides.to_h { |id, rows| [id, rows.map { |time| [time, time == at(1) ? 0.0 : -1e12] }] })
    expect(owed.finding).to start_with("Significantly lower than the control group")
    expect(owed.picture[:relative]).to be_nil
    nothing = paid(rides: rides.transform_values { |rows| rows.first(1) })
    expect(nothing.finding).to start_with("Inconclusive: total price (ride ended) per person 0.00 among exported people vs 0.00 in the holdout; too few values")
  end

  # Of 400, a hundred held back: of 25% planned; of 20%, z = 20 / 8 = 2.5, p = 0.012; of 18%, z = 28 / 7.68 = 3.64, p = 0.0003.
  it "gives no verdict where the split is not the one that was planned" do
    [0.25, 0.2].each { |planned| expect(rode([run(planned: planned)]).finding).to start_with("Significantly higher than") }
    amiss = rode([run(planned: 0.18)])
    expect(amiss.finding).to match(/\ANo verdict: sample ratio mismatch \(25\.0% in the holdout, 18\.0% planned\)\..*60\.0% of exported people vs 10\.0% of the holdout ended a ride\.\z/)
    expect(amiss.picture.values_at(:difference, :p_value)).to eq([nil, nil])
  end

  # The first run reaches 1 to 150 and holds back 301 to 350; the second everybody, of whom 301 is exported now, the third is not over.
  it "takes each person over all runs as what she was in the first" do
    runs = [run(exported: 1..150, held: 301..350, planned: 0.25, channel: "email"), run(exported: [*1..280, 301], held: [*302..390], sent: at(14, 12), planned: 0.25, channel: "sms"),
            run(exported: 281..300, held: 391..400, sent: at(25, 12), planned: 0.25), run(exported: 1..10, held: [], sent: at(11))]
    answer = rode(runs, export: 7, parts: 3)
    # Exported: 1 to 150, all of whom rode on the 12th, and 151 to 280, of whom none did after the 14th. Held: 301 to 310 of 301 to 350 did, of 351 to 390 none.
    expect(some(answer)).to eq([[280, 150], [90, 10]])
    expect(answer.picture).to include(plan: true, complete: true, young: 30)
    expect(answer.finding).to start_with("3 runs, each person from their first run on (30 more are still being measured): Significantly higher than the control group: 53.6% of exported people")
    expect(answer.caveats.join(" ")).to match(/1 person was exported by one run and held out by another.*1 run without a holdout is not counted.*People can be in several runs/)
    rows = answer.tables.find { |table| table.key == "runs" }.rows.map(&:values)
    expect(rows.map { |row| row.values_at(0, 1, 2, -1) }).to eq([["2026-05-10", 150, 50, true], ["2026-05-14", 281, 89, true], ["2026-05-25", 20, 10, false]])
    expect(rows[1].values_at(3, 4)).to eq([0.0, 0.0])
    # All of those exported by e-mail, a fifth of the holdout; by SMS nobody of both.
    within = answer.picture[:within].first
    expect(within[:groups].map { |group| [group[:name], group[:difference][:estimate].round(9)] }).to contain_exactly(["email", 0.8], ["SMS", 0.0])
    expect(within[:differ]).to be < 0.001
  end

  it "counts two who have become one once, and not where one was exported and the other held back" do
    # 1 and 2 are one now; 3 was also 350, and 301 twice.
    answer = rode([run(exported: [1, 1, *3..300], held: [3, 301, 301, *302..400], merged: 4)])
    expect(some(answer)).to eq([[298, 178], [100, 10]])
    expect(answer.caveats).to include("4 people were merged into another profile since and count as that profile.")
  end

  it "compares within what people were before the run, adjusts by what was known, and allows for several outcomes" do
    plans = rides.to_h { |id, _| [id, [[at(2), id.even? ? "year" : "day"], [at(11), "gone"]]] }
    # What is paid after is what was paid before, and 1 more of those exported.
    amounts = rides.to_h { |id, _| [id, [[at(1), (id % 10) + 1.0], [at(12), (id % 10) + (id <= 300 ? 2.0 : 1.0) + (id % 7 / 10.0)]]] }
    answer = paid(rides: amounts, plans: plans, by: { "attribute" => "plan" }, also: [{ event: "ride_ended", measure: "times" }, { event: "ride_ended", measure: "people" }], better: "less")
    expect(answer.finding).to include("Significantly higher than the control group, not as intended:").and include("Corrected for 3 outcomes.")
    expect(answer.picture[:within].first[:groups].map { |group| group[:name] }).to contain_exactly("year", "day")
    # The day before counts as before: the days reach back to 26 April.
    adjusted = answer.picture[:adjusted]
    expect(adjusted[:less]).to be > 0.9
    expect(adjusted[:high] - adjusted[:low]).to be < (answer.picture[:difference][:high] - answer.picture[:difference][:low]) / 3
    outcomes = answer.tables.find { |table| table.key == "outcomes" }.rows.map(&:values)
    expect(outcomes.map { |row| [row.first, row.last] }).to eq([["total price (ride ended) per person", true], ["number of times they ended a ride per person", false], ["ended a ride", false]])
  end

  # Exported at noon on 10 May: 1 to 100 rode on the 8th, 101 to 200 on the 12th, 201 to 300 on the 12th and 16th, 301 to 400 never again after the 1st. New or active is who rode
  # less than five days ago.
  it "tells who was active, and who is new or active at the end, day by day" do
    later = [[1, 100, at(8)], [101, 300, at(12)], [201, 300, at(16)]]
    rides = (1..400).to_h { |id| [id, [at(1), *later.select { |from, to, _| id.between?(from, to) }.map(&:last)]] }
    active = effect({ lifecycle: "was_active" }, rides: rides, days: 8)
    expect(some(active)).to eq([[300, 200], [100, 0]])
    expect(active.finding).to start_with("Significantly higher than the control group: 66.7% of exported people vs 0.0% of the holdout were active")
    state = effect({ lifecycle: "is_active" }, rides: rides, days: 8)
    # On the 18th those of the 16th alone; on the 12th those of the 8th and the 12th; on the 13th those of the 8th no longer; the others up to the 16th.
    expect(some(state)).to eq([[300, 100], [100, 0]])
    expect(state.picture[:curve].map { |row| (row[:exported][:mean] * 3).round(9) }).to eq([1, 1, 3, 2, 2, 2, 2, 1, 1])
    expect(state.picture[:known_before]).to eq("the days inactive")
  end

  it "agrees with the states of each day, of random people" do
    seeds = Checks.seeds(4)
    seeds.each do |seed|
      random = RandomPopulation.new(seed)
      rules = random.rule_set
      with_ledger(random.population) do |ledger|
        day = random.date
        days = 1 + (seed % 20)
        part = Estrel::Audience::Evaluator.new(ledger, as_of: day + days, rule_set: rules)
        columns = { "run" => Polars::Int32, "day" => Polars::Int32, "at" => Polars::Int64 }.zip([0, Estrel::Calendar.number(day), ledger.calendar.at(day, 12, 0)])
        people = ledger.profiles.select(["profile_id"]).with_columns(columns.map { |(name, type), value| Polars.lit(value).cast(type).alias(name) })
        people = people.hstack(described_class::Standing.new(part, nil, states: true).of(people))
        turns = described_class::LifecycleOutcome.new("is_active", days, rules).of(part, people)[:after]
        (0..days).each do |offset|
          told = turns.filter(Polars.col("offset") <= offset).group_by("profile_id").agg([Polars.col("value").sum]).filter(Polars.col("value") != 0)
          states = part.at(day + offset).states(day + offset)["state"].is_in(%w[new active])
          expect(told["profile_id"].sort.to_a.zip(told["value"].unique.to_a)).to eq(ledger.ids.filter(states).to_a.zip([1.0])), "seed #{seed}, day #{offset}"
        end
      end
    end
  end

  # Of a fifth held back from 10 May to the 20th, those of even numbers up to 200 ride on the 15th; 401 comes later. The message of the 14th reaches one of each group.
  it "measures all marketing by a standing holdout, among everybody known when it began" do
    rule = Estrel::Exports::Holdout.share("all", 0.2)
    held = (1..400).select { |id| rule.place(id) < rule.limit }
    rides = (1..401).to_h { |id| [id, id == 401 ? [at(11)] : [at(1), *([at(15)] if id <= 200 && id.even?)]] }
    one = Estrel::Analyses::Stored::StandingHoldout.new(id: 1, from: Date.new(2026, 5, 10), to: Date.new(2026, 5, 20), holdout: rule, share: 0.2)
    stored = Estrel::Analyses::Stored.new.tap { |all| all.define_singleton_method(:standing_holdout) { |_| one } }
    people = rides.to_h { |id, rows| [id, { events: rows.map { |time| { type: "ride_ended", at: time, price: 2.0 } }, attributes: [] }] }
    [held.first, 401, ((1..400).to_a - held).first].each { |id| people[id][:events] << { type: "message_received", at: at(14) } }
    asked = lambda do |as_of, **question|
      with_ledger(Population.new(people, event_types: { "ride_ended" => { "price" => "number" }, "message_received" => {} }, system: ["message_received"])) do |ledger|
        rules = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 20)
        analysis("export-effect", { standing: 1, metric: { lifecycle: "was_active" }, **question }, ledger, as_of: as_of, rules: rules, stored: stored, parts: 3).over
      end
    end
    answer = asked.call(Date.new(2026, 5, 21), also: [{ lifecycle: "is_active" }, { event: "ride_ended", measure: "sum", property: "price" }], by: { "state" => true })
    rode = [(1..400).to_a - held, held].map { |ids| [ids.size, ids.count { |id| id <= 200 && id.even? }] }
    expect(some(answer)).to eq(rode)
    expect(answer.picture).to include(from: Date.new(2026, 5, 10), to: Date.new(2026, 5, 20), complete: true)
    expect(answer.finding).to match(/\A(Inconclusive|Significantly).* of people outside the holdout vs \d+\.\d% of the global holdout were active .*Corrected for 3 outcomes/)
    expect(answer.caveats.join(" ")).to include("#{format("%.1f", 100.0 / held.size)}% of the holdout still received a message in this period (others: 0.3%).").and include("Only people known before 10 May 2026 are compared.")
    expect(answer.tables.map { |table| [table.key, table.title] }).to include(["groups", "Not held out and global holdout, 10 May 2026 to 20 May 2026"], ["values", "By group on the day before the holdout started"], ["days", "Cumulative by day since the holdout started"])
    expect(asked.call(Date.new(2026, 5, 19)).finding).to start_with("Preliminary until the end of 20 May 2026: ")
    expect(asked.call(Date.new(2026, 5, 9)).finding).to eq("No result yet: the global holdout starts on 10 May 2026, after the as-of date.")
    expect { asked.call(Date.new(2026, 5, 21), run: 1) }.to raise_error(Estrel::Analyses::Invalid, /or a standing holdout/)
  end

  it "says what it cannot tell, and how many it would take" do
    alike = rode([run(exported: 181..300, held: 311..400)])
    expect(alike.finding).to start_with("Inconclusive: 0.0% of exported people vs 0.0% of the holdout ended a ride")
    expect(alike.picture[:needed]).to be > 300
    # Half of forty and of forty paid 2: means 1, variances 40 / 39; a tenth of it is 0.1: 2.8016² * 2 * 40 / 39 / 0.01 = 1610.02, so 1,611 in each group.
    even = rides.merge((301..340).to_h { |id| [id, [at(1), *([at(12)] if id <= 320)]] })
    sums = paid([run(exported: 161..200, held: 301..340)], rides: even)
    expect(sums.picture).to include(size: 0.1, needed: 3_222)
    expect(sums.finding).to match(/in the holdout \(95% CI of the difference −\d\.\d\d to \+\d\.\d\d\)/)
    expect(sums.finding).to end_with("Detecting 10% of the control mean takes about 3,222 people at the same split, 3,142 more than here (80% power, 5% significance).")
    { effect(nil, [run(held: [401])]) => "There are no people in the holdout.", rode([run(held: [])]) => "Nobody is in the holdout to measure against.",
      effect(nil, rides: rides.transform_values { |rows| [*rows, at(9)] }) => "Nobody was dormant or churned, so nobody could come back.", rode([run(exported: [])]) => "There is nobody among those exported.", rode([run(exported: 1..30, held: [301])]) => "Too few people for a verdict, 50 at least: 100.0% of those exported ended a ride, 100.0% of the holdout." }
      .each { |answer, said| expect(answer.finding).to eq(said) }
    { { event: "ride_ended", measure: "sum", property: "dock" } => /no property "dock"/, { event: "ride_ended", measure: "fame" } => /"Measure" must be one of people, times, sum/ }
      .each { |metric, message| expect { effect(metric) }.to raise_error(Estrel::Analyses::Invalid, message) }
    expect { rode(export: 1, run: 1) }.to raise_error(Estrel::Analyses::Invalid, /choose a run, or an export/)
  end
end
