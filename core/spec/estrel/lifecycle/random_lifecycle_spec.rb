# frozen_string_literal: true

# Every study of the lifecycle against the reference, on random histories, policies, steps and time zones.
RSpec.describe "random lifecycles against the reference" do
  seeds = ENV["HISTORY_SEED"] ? [Integer(ENV["HISTORY_SEED"])] : Array.new(25) { Random.rand(1 << 32) }

  seeds.each do |seed|
    it "agrees on movements, activity, quiet periods, backtests and restatements (HISTORY_SEED=#{seed})" do
      random = RandomPopulation.new(seed)
      population = random.population
      policy = random.policy
      reference = Reference.new(population, policy)
      from, to = [random.date, random.date].sort
      steps = Estrel::Lifecycle::Steps.covering(%w[day week month][seed % 3], from, to)
      dates = steps.dates

      with_ledger(population) do |generation|
        lifecycle = Estrel::Lifecycle.new(generation, policy)
        plans = Estrel::AttributeValues.new(generation).at(to, "plan", "text")["value"]
        everybody = Estrel::Lifecycle::Grouping.everybody(generation)
        by_plan = Estrel::Lifecycle::Grouping.values(generation, plans, top: 2, key: :plan)
        groups = by_plan.labels.map { |label| population.people.keys.sort.zip(plans.to_a).select { |_, plan| in_group?(label, plan, by_plan) }.map(&:first) }

        series = lifecycle.series(steps, everybody).first
        expect(series.except("returned").transform_values(&:to_a)).to eq(
          Reference::STATES.to_h { |state| [state, dates.map { |date| reference.counts(date)[state] }] }
        )
        expect(series["returned"]).to eq(dates.map { |date| reference.seen(date).count { |person| reference.returned?(person, date) } })

        [[everybody, [nil]], [by_plan, groups]].each do |grouping, members|
          found = lifecycle.movements(steps, grouping)
          members.each_with_index do |among, group|
            dates.each_cons(2).each_with_index do |(before, after), period|
              movement = found[group][period]
              expect(Reference::STATES.product(Reference::STATES).to_h { |pair| [pair, movement[*pair]] }.reject { |_, n| n.zero? })
                .to eq(reference.movement(before, after, among)), "#{before} to #{after}"
              alive = ->(date) { reference.seen(date, among).count { |person| %w[new active].include?(reference.state(person, date)) } }
              expect(movement.net).to eq(alive.call(after) - alive.call(before))
            end
          end
        end

        active = Estrel::Lifecycle::ActivePeople.new(lifecycle)
        trailing = active.trailing(steps, everybody).first
        Estrel::Lifecycle::ActivePeople::WINDOWS.each do |window|
          expect(trailing[window]).to eq(dates.map { |date| reference.active_within(date, window) })
        end
        expect(active.per_period(steps, everybody).first).to eq(dates.each_cons(2).map { |before, after| reference.active_between(before + 1, after) })

        periods = reference.quiet_periods(to)
        estimate = Estrel::Lifecycle::QuietPeriods.new(lifecycle, to).estimates(everybody).first
        expect(estimate.total).to eq(periods.size)
        [0, 1, 3, 8, 20].each { |time| expect(estimate.survival(time)).to be_within(1e-12).of(reference.survival(periods, time)) }

        looked_from = [random.date, to].max
        Estrel::Lifecycle::Backtest.new(lifecycle, looked_from).rows(steps).each_with_index do |row, index|
          (all, back), (newly, newly_back) = reference.called_churned(row.date, dates[index], 30)
          told = row.date + 30 <= looked_from
          expect([row.churned, row.newly, row.back[30], row.newly_back[30]]).to eq([all, newly, told ? back : nil, told ? newly_back : nil]), row.date.to_s
        end

        known = Estrel::Lifecycle::KnownThen.new(lifecycle)
        [[true, true], [true, false], [false, true], [false, false]].each do |late, apart|
          counts = known.counts(steps, late: late, apart: apart)
          dates.each_with_index do |date, index|
            expected = reference.known_then(date, late: late, apart: apart)
            expect(counts.transform_values { |list| list[index] }.reject { |_, n| n.zero? }).to eq(expected.except("unseen")), "#{date} late #{late} apart #{apart}"
          end
        end
      end
    end
  end

  def in_group?(label, plan, grouping)
    case label.first
    when :value then plan == label.last
    when :not_set then plan.nil?
    else !plan.nil? && grouping.labels.none? { |other| other == [:value, plan] }
    end
  end
end
