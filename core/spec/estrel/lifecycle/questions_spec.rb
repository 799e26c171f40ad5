# frozen_string_literal: true

# Worked by hand: new_for 5, dormant from 7 inactive days, churned from 20.
RSpec.describe "questions about the lifecycle" do
  let(:rule_set) { Estrel::Lifecycle::RuleSet.new(activity: ["ride"], new_for: 5, active_within: 7, churned_after: 20) }

  def may(day) = Date.new(2026, 5, day)

  def rides(*days, **more) = { events: days.map { |day| { type: "ride", at: Time.utc(2026, 5, day, 12), **more } }, attributes: [] }

  def lifecycle(people, types: { "ride" => {} }, rules: rule_set, **settings)
    with_ledger(Population.new(people, event_types: types, **settings)) do |generation|
      yield Estrel::Lifecycle.new(generation, rules), generation
    end
  end

  def movement(before, after, *days)
    lifecycle({ 1 => rides(*days) }) do |found, ledger|
      steps = Estrel::Lifecycle::Steps.between(may(before), may(after))
      found.movements(steps, Estrel::Lifecycle::Grouping.everybody(ledger)).first.first
    end
  end

  it "names the parts of a movement exactly at the thresholds" do
    moved = ->(*asked) { movement(*asked).to_h.slice(:joined, :came_and_lapsed, :reactivated, :retained, :lapsed, :newly_churned).select { |_, n| n == 1 }.keys }
    expect(moved.call(1, 2, 2)).to eq([:joined])
    expect(moved.call(1, 8, 2)).to eq([:joined]) # six inactive days: not dormant yet
    expect(moved.call(1, 9, 2)).to eq([:came_and_lapsed]) # seven: came and went
    expect(moved.call(1, 8, 1)).to eq([:lapsed])
    expect(moved.call(7, 8, 1)).to eq([:lapsed])
    expect(moved.call(8, 20, 1)).to eq([]) # dormant at both
    expect(moved.call(20, 21, 1)).to eq([:newly_churned])
    expect(moved.call(8, 9, 1, 9)).to eq([:reactivated])
    expect(moved.call(7, 8, 1, 8)).to eq([:retained])
  end

  it "has no gain/loss ratio where nobody lapsed" do
    expect(movement(1, 2, 2).gain_loss_ratio).to be_nil
    expect(movement(7, 8, 1).gain_loss_ratio).to eq(0)
  end

  it "takes weeks from Monday and says which periods are incomplete" do
    steps = Estrel::Lifecycle::Steps.covering("week", may(6), may(19)) # Wednesday to Tuesday
    expect(steps.dates).to eq([may(3), may(10), may(17), may(19)])
    expect(steps.periods(may(30)).map { |period| period[:complete] }).to eq([true, true, false])
    expect(Estrel::Lifecycle::Steps.covering("week", may(6), may(17)).periods(may(17)).last[:complete]).to be(false)
    expect(Estrel::Lifecycle::Steps.covering("week", may(6), may(17)).periods(may(18)).last[:complete]).to be(true)
    expect(Estrel::Lifecycle::Steps.covering("month", may(6), Date.new(2026, 6, 30)).dates).to eq([Date.new(2026, 4, 30), may(31), Date.new(2026, 6, 30)])
    expect { Estrel::Lifecycle::Steps.covering("day", may(6), may(5)) }.to raise_error(/ends .* before it starts/)
    expect { Estrel::Lifecycle::Steps.covering("fortnight", may(6), may(7)) }.to raise_error(/one of day, week, month/)
    forty_years = Estrel::Lifecycle::Steps.covering("day", Date.new(1987, 1, 1), Date.new(2026, 5, 31))
    lifecycle({ 1 => rides(1) }) do |found, ledger|
      expect(found.series(forty_years, Estrel::Lifecycle::Grouping.everybody(ledger)).first["active"].sum).to eq(2)
    end
  end

  it "suggests the fewest inactive days that keep reactivations under a share, and warns of thresholds that do not" do
    # Inactivity gaps of forty times five: three of one day, one of ten, and one each of 19, 25, 25, 29 and 30 days not over on 31 May.
    kinds = [rides(1, 2), rides(5, 6), rides(1, 2, 12), rides(6), rides(1)]
    people = (1..200).zip(kinds.cycle.first(200).shuffle(random: Random.new(2))).to_h
    lifecycle(people) do |found, ledger|
      durations = Estrel::Lifecycle::Durations.new(found, Estrel::Calendar.number(may(31)))
      everybody = Estrel::Lifecycle::Grouping.everybody(ledger)
      survival = Estrel::Lifecycle::Durations.estimates(durations.of(everybody), 1).first
      at_risk = Estrel::Lifecycle::Durations.at_risk(durations.longest(everybody), 1).first
      expect([survival.whole.total, at_risk[18], at_risk[19], at_risk[29], at_risk[30]]).to eq([360, 200, 160, 40, 0])
      asked = ->(rules, risk = at_risk) { Estrel::Lifecycle::Thresholds.new(survival, rules, horizon: 10, at_risk: risk) }
      study = asked.call(rule_set)
      expect(study.reactivation(1)).to include(estimate: be_within(1e-12).of(1.0 / 6), low: be_between(0.1, 0.16), high: be_between(0.17, 0.25))
      # The upper end at 1 is above 0.2. From 10 on nobody came back; of 160 that shows at best 1 - 0.05^(1/160).
      expect([study.suggested(0.3), study.suggested(0.2), study.suggested(0.1), study.suggested(0.01)]).to eq([1, 10, 10, nil])
      expect(study.reactivation(19)).to match(estimate: 0.0, low: 0.0, high: be_within(1e-12).of(1 - (0.05**(1 / 160.0))))
      expect(asked.call(rule_set, at_risk.transform_values { |count| count / 5 }).suggested(0.3)).to be_nil
      expect(study.reactivation(25)).to be_nil
      expect(study.warnings(0.1, { "churned" => 1 })).to eq([])
      expect(study.warnings(0.1, { "churned" => 0 })).to eq(["No one is churned: no one has been inactive for 20 days on this date."])
      soon = asked.call(rule_set.with(active_within: 1, churned_after: 2))
      expect(soon.warnings(0.05, { "churned" => 4 }).join).to match(/\A17% of those called churned at 2 inactive days are reactivated within 10 days \(95% interval 1\d% to 2\d%\), more than the 5% you allow/)
      expect(soon.warnings(0.15, { "churned" => 4 })).to eq([])
      late = asked.call(rule_set.with(churned_after: 90))
      expect(late.warnings(0.1, { "churned" => 0 }).join).to include("the longest inactivity there is lasts 30 days")
    end
  end

  it "splits a revision into its causes, which add up" do
    people = { 1 => rides(1), 2 => rides(1, 10), # nothing differs
               3 => { events: [*rides(1)[:events], { type: "ride", at: Time.utc(2026, 5, 9), received: Time.utc(2026, 5, 12) }], attributes: [] },
               4 => { events: [*rides(1)[:events], *rides(2, of: 99, linked: Time.utc(2026, 5, 12))[:events]], attributes: [] },
               5 => { events: [{ type: "ride", at: Time.utc(2026, 5, 9), stored: "rdie" }], attributes: [] },
               6 => { events: [{ type: "tap", at: Time.utc(2026, 5, 10) }], attributes: [] } }
    now = rule_set.with(active_within: 9)
    types = { "ride" => {}, "tap" => {} }
    lifecycle(people, types: types, rules: now, aliases: { "rdie" => "ride" }) do |_, ledger|
      apart = Estrel::Catalogue.new(
        event_types: [*ledger.catalogue.event_types.values, Estrel::Catalogue::EventType.new(id: 9, name: "rdie", properties: {}, count: 1)],
        attributes: []
      )
      past = ->(_) { Estrel::Lifecycle::Revision::Rules.new(rule_set, apart) }
      study = Estrel::Lifecycle::Revision.new(Estrel::Lifecycle::Revision::Rules.new(now, ledger.catalogue), past: past) do |rules|
        Estrel::Lifecycle.new(ledger, rules)
      end
      steps = Estrel::Lifecycle::Steps.between(may(9), may(10))
      row = Estrel::Lifecycle::Revision.rows(study.counts(steps), steps).last
      # Then: 1, 3, 4 and 99 (who is 4) nine and eight days inactive and so dormant, 2 active; of 5 and 6 nothing counted.
      expect(row.before).to eq("new" => 0, "active" => 1, "dormant" => 4, "churned" => 0)
      expect(row.causes["late"]).to eq("new" => 0, "active" => 1, "dormant" => -1, "churned" => 0)
      expect(row.causes["merged"]).to eq("new" => 0, "active" => 0, "dormant" => -1, "churned" => 0)
      expect(row.causes["catalogue"]).to eq("new" => 1, "active" => 0, "dormant" => 0, "churned" => 0)
      expect(row.causes["rule_set"]).to eq("new" => 0, "active" => 1, "dormant" => -1, "churned" => 0)
      expect(row.now).to eq("new" => 1, "active" => 3, "dormant" => 1, "churned" => 0)
      # Fewer than ten count by themselves: three fewer are dormant, two more active, one more new than none.
      expect([row.moved, row.most_moved]).to eq([0.3, "dormant"])
    end
  end

  # Churned after 20 inactive days. 1 is churned from 21 January on and back on 3 May; 2 twice, from the 26th of January and of March on; 3 became
  # churned on Tuesday 10 February and was back on the 12th, within the week; 4 never was.
  it "counts people and times apart in a backtest, and who was back before a week's end" do
    on = ->(*dates) { { events: dates.map { |month, day| { type: "ride", at: Time.utc(2026, month, day, 12) } }, attributes: [] } }
    people = { 1 => on.call([1, 1], [5, 3]), 2 => on.call([1, 6], [3, 6]), 3 => on.call([1, 21], [2, 12], [2, 28], [3, 15], [4, 1], [4, 20], [5, 9], [5, 25]), 4 => on.call(*(1..31).map { |day| [5, day] }) }
    lifecycle(people) do |_, ledger|
      answer = analysis("backtest", { weeks: 24 }, ledger, as_of: Date.new(2026, 6, 10), rules: rule_set).over
      # Of the weeks that ended ninety days before.
      expect(answer.picture.slice(:people, :between)).to eq({ people: 2, between: 1 })
      expect(answer.finding).to eq("50% of newly churned people were reactivated within 90 days (2 people, 2 times).")
      expect(answer.caveats).to eq(["Another 1 time, someone became churned and active again within the same week."])
    end
  end

  it "revises nothing where everything was received in time" do
    lifecycle({ 1 => rides(1, 20), 2 => rides(3) }) do |found, _|
      steps = Estrel::Lifecycle::Steps.between(may(9), may(23))
      then_known = Estrel::Lifecycle::ReceivedThen.new(found).counts(steps)
      expect(then_known.slice("new", "dormant", "churned")).to eq("new" => [0, 0], "dormant" => [1, 0], "churned" => [0, 1])
      expect(then_known["active"]).to eq([1, 1])
    end
  end

  it "tells dormant people by where they came from, each of whom a definition finds" do
    # On 20 May: the first was new on the eve, the second active, the third had been reactivated for one day, the fourth for two.
    people = { 1 => rides(10), 2 => rides(1, 6, 10), 3 => rides(1, 10), 4 => rides(1, 9, 10) }
    lifecycle(people, rules: rule_set.with(new_for: 8)) do |found, ledger|
      counts = Estrel::Lifecycle::DormantPeople.new(found, may(20)).counts
      expect(counts["origins"]).to eq("new" => 1, "active" => 2, "reactivated" => 1)
      expect(Estrel::Lifecycle::DormantPeople.spans(found.rule_set).zip(counts["spans"])).to eq([[7..10, 4], [11..14, 0], [15..18, 0], [19..19, 0]])
      from = ->(*states, **more) { { "is" => ["dormant"], "from" => states, **more.transform_keys(&:to_s) } }
      members = lambda do |condition|
        definition = Estrel::Audience::Definition.parse({ "lifecycle" => condition }, catalogue: ledger.catalogue)
        Estrel::Audience::Evaluator.new(ledger, as_of: may(20), rule_set: found.rule_set).members(definition).to_a
      end
      expect([from.call("new"), from.call("active"), from.call("new", "active", reactivated: true)].map(&members)).to eq([[1], [2, 3, 4], [3]])
    end
  end

  it "alerts only where the condition of a rule holds" do
    # The third has been churned since March, when activity begins.
    long_ago = { events: [{ type: "ride", at: Time.utc(2026, 3, 1, 12) }], attributes: [] }
    told = lambda do |kind, settings, day, people = { 1 => rides(3, 4), 2 => rides(1, 2), 3 => long_ago }|
      with_ledger(Population.new(people, event_types: { "ride" => {} })) do |ledger|
        workspace = Estrel::Analyses::Workspace.new(ledger: ledger, as_of: may(day), today: may(day) + 1, rules: rule_set, parts: 2)
        Estrel::Lifecycle::AlertCondition.new(kind, settings).told(workspace)
      end
    end
    # In the week from 11 to 17 May the first lapsed and nobody came; in the week before the second did.
    expect(told.call("gain_loss_below", { "weeks" => 2 }, 20)).to eq("The gain/loss ratio was below 1 in each of the last 2 weeks: 0, 0.")
    expect(told.call("gain_loss_below", { "weeks" => 3 }, 20)).to be_nil
    expect(told.call("gain_loss_below", { "weeks" => 2 }, 20, { 1 => rides(3, 4), 2 => rides(1, 2) })).to be_nil
    expect(told.call("dormant_grew", { "share" => 1.0, "days" => 1 }, 11)).to eq("Dormant grew by 100% within a day: from 1 to 2 people.")
    expect(told.call("dormant_grew", { "share" => 1.1, "days" => 1 }, 11)).to be_nil
    # Ten rode on the 9th; of two more that were known only on the 13th.
    late = (1..12).to_h { |id| [id, id <= 10 ? rides(9) : rides(9, received: Time.utc(2026, 5, 13))] }
    expect(told.call("revised", { "share" => 0.2 }, 20, late)).to be_nil
    expect(told.call("revised", { "share" => 0.1 }, 20, late))
      .to start_with("New on 10 May 2026 revised from 10 to 12 (20%). Main cause: late events")
    # Of two hundred who had been inactive for 20 days, half were reactivated within five.
    back = (1..200).zip([rides(1, 25), rides(1, 3)].cycle.first(200).shuffle(random: Random.new(1))).to_h
    expect(told.call("reactivation_above", { "share" => 0.4, "horizon" => 5 }, 31, back)).to start_with("50% of those called churned at 20 inactive days")
    [0.6, 0.49].each { |share| expect(told.call("reactivation_above", { "share" => share, "horizon" => 5 }, 31, back)).to be_nil }
    expect { told.call("revised", { "share" => Float::NAN }, 20) }.to raise_error(Estrel::Lifecycle::AlertCondition::Invalid, /"Share" must be a number/)
    expect { told.call("revised", { "weeks" => 1.5 }, 20) }.to raise_error(/"Weeks" must be a whole number/)
  end

  it "gives the most frequent of 50,000 values groups of their own, and all others one" do
    values = Polars::Series.new("value", (0...50_000).map { |number| "v#{number}" } + (0...30).flat_map { |number| ["often #{number}"] * (number + 2) })
    ledger = Struct.new(:base_size).new(values.len)
    labels = Estrel::Lifecycle::Grouping.labels(values.to_a.tally, 20)
    grouping = Estrel::Lifecycle::Grouping.values(ledger, values, labels, key: :many)
    expect(grouping.labels.first(2) + grouping.labels.last(1)).to eq([[:value, "often 29"], [:value, "often 28"], [:other, 50_010]])
    expect(grouping.sizes).to eq([*31.downto(12), 50_000 + (2..11).sum])
  end

  it "tells devices apart whose numbers differ in their last bits only" do
    gaps = ->(devices) { Estrel::Lifecycle::Gaps.of_devices(Polars::DataFrame.new({ "device" => devices, "day" => [9, 3, 1, 1] })).frame.rows.sort }
    first = Estrel::Lifecycle::Gaps::FIRST
    [[5, 5, 6, 7], [5 << 13, 5 << 13, 6 << 13, (1 << 60) - 1]].each do |devices|
      expect(gaps.call(devices)).to eq([[0, 1, first, 2], [0, 3, first, 1], [0, 9, 6, 1]])
    end
  end

  it "counts nothing of an event type that is marked as no activity" do
    people = { 1 => rides(1, 5) }
    lifecycle(people) do |found, ledger|
      hidden = Estrel::Catalogue.from_h(ledger.catalogue.to_h.then { |json| JSON.parse(JSON.generate(json)) }.tap { |json| json["event_types"].each { |type| type["not_activity"] = true } })
      inactive = Estrel::Lifecycle.new(Estrel::Ledger::Relabelled.new(ledger, hidden), found.rule_set)
      expect([found, inactive].map { |one| one.counts(may(6), may(6)).reject { |_, count| count == [0] }.keys }).to eq([["active"], ["never_active"]])
    end
  end

  it "counts only activity that meets the rule set's conditions, and only whom it is about" do
    people = { 1 => { events: [{ type: "ride", at: Time.utc(2026, 5, 1), km: 9.0 }, { type: "ride", at: Time.utc(2026, 5, 9), km: 1.0 }], attributes: [] },
               2 => { events: [{ type: "ride", at: Time.utc(2026, 5, 9), km: 8.0 }], attributes: [{ name: "plan", at: Time.utc(2026, 5, 1), value: "m" }] } }
    far = rule_set.with(activity: [{ "event" => "ride", "where" => [{ "property" => "km", "compare" => "greater", "value" => 5 }] }])
    lifecycle(people, types: { "ride" => { "km" => "number" } }, attributes: { "plan" => "text" }, rules: far) do |found, ledger|
      expect(found.states(may(10))["state"].to_a).to eq(%w[dormant new])
      definition = Estrel::Audience::Definition.parse({ "attribute" => { "name" => "plan", "compare" => "is", "value" => "m" } }, catalogue: ledger.catalogue)
      only = far.with(population: Estrel::Lifecycle::RuleSet::Population.new(id: 1, name: "planned", definition: definition))
      evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: may(10), rule_set: only)
      expect(evaluator.states(may(10))["state"].to_a).to eq([nil, "new"])
      expect(evaluator.lifecycle.counts(may(10), may(10)).transform_values(&:first)).to eq("never_active" => 0, "new" => 1, "active" => 0, "dormant" => 0, "churned" => 0)
      dormant = Estrel::Audience::Definition.parse({ "lifecycle" => { "is" => %w[new dormant never_active] } }, catalogue: ledger.catalogue)
      expect(evaluator.members(dormant).to_a).to eq([2])
      wrong = far.with(activity: [{ "event" => "ride", "where" => [{ "property" => "km", "compare" => "contains", "value" => "x" }] }])
      expect { wrong.check(ledger.catalogue) }.to raise_error(Estrel::Lifecycle::RuleSet::Invalid, /"km" is a number; compare it by/)
      expect { far.with(activity: ["rdie"]).check(ledger.catalogue) }.to raise_error(/no event type "rdie"/)
    end
  end
end
