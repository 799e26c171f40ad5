# frozen_string_literal: true

# Every study of the lifecycle against the reference, on random histories, rule sets, steps and time zones.
RSpec.describe "random lifecycles against the reference" do
  seeds = Checks.seeds(25, every_run: 6)

  def asked(seed)
    random = RandomPopulation.new(seed)
    population = random.population
    rule_set = random.rule_set
    from, to = [random.date, random.date].sort
    steps = Estrel::Lifecycle::Steps.covering(%w[day week month][seed % 3], from, to)
    with_ledger(population, tail: seed) do |ledger|
      yield AskedLifecycle.new(population, Reference.new(population, rule_set), steps, [random.date, to].max, Estrel::Lifecycle.new(ledger, rule_set), ledger)
    end
  end

  # Everybody, and people by plan, each grouping with the ids of its groups; nil for all.
  def groupings(one)
    plans = Estrel::AttributeValues.new(one.ledger).at(one.dates.last, "plan", "text")["value"]
    by_plan = Estrel::Lifecycle::Grouping.values(one.ledger, plans, Estrel::Lifecycle::Grouping.labels(plans.to_a.tally, 2), key: :plan)
    pairs = one.population.people.keys.sort.zip(plans.to_a)
    groups = by_plan.labels.map { |label| pairs.select { |_, plan| in_group?(label, plan, by_plan) }.map(&:first) }
    [[one.everybody, [nil]], [by_plan, groups]]
  end

  def in_group?(label, plan, grouping)
    case label.first
    when :value then plan == label.last
    when :not_set then plan.nil?
    else !plan.nil? && grouping.labels.none?([:value, plan])
    end
  end

  def agree_on_movements(one, movements, among)
    one.dates.each_cons(2).with_index do |(before, after), period|
      movement = movements[period]
      table = Reference::STATES.product(Reference::STATES).to_h { |pair| [pair, movement[*pair]] }
      expect(table.reject { |_, people| people.zero? }).to eq(one.reference.movement(before, after, among)), "#{before} to #{after}"
      alive = ->(date) { one.reference.seen(date, among).count { |person| %w[new active].include?(one.reference.state(person, date)) } }
      expect(movement.net).to eq(alive.call(after) - alive.call(before))
    end
  end

  seeds.each do |seed|
    it "agrees on states, the reactivated mark and movements, which add up (seed #{seed})" do
      asked(seed) do |one|
        series = one.lifecycle.series(one.steps, one.everybody).first
        expect(series.except("reactivated")).to eq(Reference::STATES.to_h { |state| [state, one.dates.map { |date| one.reference.counts(date)[state] }] })
        expect(series["reactivated"]).to eq(one.dates.map { |date| one.reference.seen(date).count { |person| one.reference.reactivated?(person, date) } })
        groupings(one).each do |grouping, members|
          found = one.lifecycle.movements(one.steps, grouping)
          members.each_with_index { |among, group| agree_on_movements(one, found[group], among) }
        end
      end
    end

    it "agrees on activity, inactivity gaps and backtests (seed #{seed})" do
      asked(seed) do |one|
        groupings(one).each do |grouping, members|
          active = Estrel::Lifecycle::ActivePeople.new(one.lifecycle.gaps(grouping), grouping.size)
          members.each_with_index do |among, group|
            trailing = active.trailing(one.steps)[group]
            Estrel::Lifecycle::ActivePeople::WINDOWS.each do |window|
              expect(trailing[window]).to eq(one.dates.map { |date| one.reference.active_within(date, window, among) })
            end
          end
        end
        devices = Estrel::Lifecycle::ActivePeople.new(Estrel::Lifecycle::Gaps.of_devices(one.lifecycle.device_days)).trailing(one.steps).first
        expect(devices.slice(1, 7, 30)).to eq([1, 7, 30].to_h { |window| [window, one.dates.map { |date| one.reference.devices_within(date, window) }] })
        everybody = Estrel::Lifecycle::ActivePeople.new(one.lifecycle.gaps(one.everybody))
        expect(everybody.per_period(one.steps).first).to eq(one.dates.each_cons(2).map { |before, after| one.reference.active_between(before + 1, after) })

        periods = one.reference.inactivity_gaps(one.dates.last)
        durations = Estrel::Lifecycle::Durations.new(one.lifecycle, one.steps.days.last)
        clustered = Estrel::Lifecycle::Durations.estimates(durations.of(one.everybody), 1).first
        estimate = clustered.whole
        point = clustered.points.find { |found| found.t >= 3 && found.error }
        if point && point.survival < 1
          expect(point.error).to be_within(1e-9).of(point.survival * Math.sqrt(one.reference.robust_variance(one.reference.gaps_by_person(one.dates.last), point.t)))
        end
        long = periods.count { |days, _| days >= one.lifecycle.rule_set.active_within }
        %w[season lapses].each { |kind| expect(Estrel::Lifecycle::Durations.estimates(durations.by(kind), 4).sum { |found| found.whole.total }).to eq(long) }
        expect(estimate.total).to eq(periods.size)
        [0, 1, 3, 8, 20].each { |time| expect(estimate.survival(time)).to be_within(1e-12).of(one.reference.survival(periods, time)) }

        counts = Estrel::Lifecycle::Backtest.new(one.lifecycle, one.later).counts(one.steps)
        Estrel::Lifecycle::Backtest.rows(counts, one.steps, one.later).each_with_index do |row, index|
          (all, back), (newly, newly_back) = one.reference.called_churned(row.date, one.dates[index], 30)
          told = row.date + 30 <= one.later
          expect([row.churned, row.newly, row.back[30], row.newly_back[30]]).to eq([all, newly, told ? back : nil, told ? newly_back : nil]), row.date.to_s
        end
      end
    end

    it "agrees on what was known at the time (seed #{seed})" do
      asked(seed) do |one|
        known = Estrel::Lifecycle::ReceivedThen.new(one.lifecycle)
        [true, false].product([true, false]).each do |late, apart|
          counts = known.counts(one.steps, late: late, apart: apart)
          one.dates.each_with_index do |date, index|
            found = counts.transform_values { |list| list[index] }.reject { |_, people| people.zero? }
            expect(found).to eq(one.reference.received_then(date, late: late, apart: apart).except("never_active")), "#{date} late #{late} apart #{apart}"
          end
        end
      end
    end
  end
end
