# frozen_string_literal: true

module Bench
  # The studies of the lifecycle, each asked with nothing remembered and once more of the same generation;
  # {LifecyclesSQL} asks the same of MariaDB where SQL can.
  class Lifecycles
    AS_OF = Questions::AS_OF
    POLICY = Questions::POLICY
    WEEKS = 52
    # The last Sunday, and the one so many weeks before.
    LAST = AS_OF - (AS_OF.cwday % 7)
    FIRST = LAST - (7 * WEEKS)

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @yieldparam name [String]
    # @yieldparam cold [Float] seconds, the median of several, nothing remembered
    # @yieldparam warm [Float] seconds, asked again
    # @yieldparam answer [Object] comparable with that of the database
    # @return [void]
    def each
      all.each do |name, question|
        answer = nil
        warm = nil
        cold = Questions.new(@directory).seconds(lambda do |generation|
          answer = question.call(generation)
          warm = generation
        end)
        yield name, cold, Clock.timed { question.call(warm) }.last, answer
      end
    end

    private

    def all
      { "365 days of state counts" => method(:year), "53 weeks of movement" => method(:movements),
        "the same by 20 values" => method(:by_quarter), "quiet periods" => method(:quiet),
        "52-week backtest" => method(:backtest), "then against now" => method(:restated),
        "active people, 365 days" => method(:active) }
    end

    def lifecycle(generation) = Estrel::Lifecycle.new(generation, POLICY)

    def everybody(generation) = Estrel::Lifecycle::Grouping.everybody(generation)

    def weeks(first = FIRST - 6) = Estrel::Lifecycle::Steps.covering("week", first, LAST)

    def year(generation)
      lifecycle(generation).counts(AS_OF - 364, AS_OF).except("unseen").transform_values(&:sum)
    end

    # Per period the people who lapsed.
    def movements(generation)
      lifecycle(generation).movements(weeks, everybody(generation)).first.sum { |one| one.part("lapsed") }
    end

    def by_quarter(generation)
      evaluator = Estrel::Audience::Evaluator.new(generation, as_of: AS_OF, policy: POLICY)
      split = Estrel::Audience::Split.parse({ "attribute" => "quarter" }, generation.catalogue)
      grouping = evaluator.groups(split, top: 20)
      lapsed = lifecycle(generation).movements(weeks, grouping).map do |periods|
        periods.sum do |one|
          one.part("lapsed")
        end
      end
      grouping.labels.map(&:last).zip(lapsed).to_h
    end

    # Ended periods of one, 30 and 90 days.
    def quiet(generation)
      estimate = Estrel::Lifecycle::QuietPeriods.new(lifecycle(generation),
                                                     AS_OF).estimates(everybody(generation)).first
      [1, 30, 90].to_h { |days| [days, estimate.at(days).ended] }
    end

    def backtest(generation)
      rows = Estrel::Lifecycle::Backtest.new(lifecycle(generation), AS_OF).rows(weeks(FIRST))
      rows.to_h { |row| [row.date, row.newly] }.select { |_, people| people.positive? }
    end

    def restated(generation)
      rules = Estrel::Lifecycle::Restatement::Rules.new(POLICY, generation.catalogue)
      study = Estrel::Lifecycle::Restatement.new(rules, past: ->(_) { rules }) do |policy|
        Estrel::Lifecycle.new(generation, policy)
      end
      study.rows(weeks(FIRST)).sum { |row| row.before.fetch("active") }
    end

    def active(generation)
      steps = Estrel::Lifecycle::Steps.covering("day", AS_OF - 364, AS_OF)
      active = Estrel::Lifecycle::ActivePeople.new(lifecycle(generation))
      active.trailing(steps, everybody(generation)).first.fetch(28).drop(1).sum
    end
  end
end
