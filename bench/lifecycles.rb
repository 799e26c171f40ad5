# frozen_string_literal: true

module Bench
  # The analyses of the lifecycle, each asked with nothing remembered and once more of the same generation;
  # {LifecyclesSQL} asks the same of MariaDB where SQL can.
  class Lifecycles
    AS_OF = Questions::AS_OF
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
    def each(&) = Questions.new(@directory).each_twice(all, &)

    private

    def all
      { "365 days of states" => method(:year), "53 weeks of movement" => method(:movements),
        "the same by 20 values" => method(:by_quarter), "thresholds" => method(:gaps),
        "52-week backtest" => method(:backtest), "revisions" => method(:revisions),
        "activity, 365 days" => method(:activity) }
    end

    def picture(generation, name, question = {})
      Analyses.answer(generation, name, question).picture
    end

    def year(generation)
      found = picture(generation, "states", { from: AS_OF - 364, step: "day" })
      found[:counts].except("never_active").transform_values(&:sum)
    end

    # Per period the people who lapsed.
    def movements(generation)
      Analyses.answer(generation, "states", { from: FIRST - 6, step: "week" }, as_of: LAST)
              .picture[:periods].sum { |period| period[:lapsed] }
    end

    def by_quarter(generation)
      question = { from: FIRST - 6, step: "week", by: { attribute: "quarter" }, top: 20 }
      rows = Analyses.answer(generation, "states-by-group", question, as_of: LAST).picture[:rows]
      rows.to_h { |row| [row[:value], row[:parts]["lapsed"]] }
    end

    def gaps(generation) = picture(generation, "thresholds")[:gaps]

    def backtest(generation)
      rows = picture(generation, "backtest", { weeks: WEEKS })[:rows]
      rows.to_h { |row| row.values_at(:date, :newly) }.select { |_, people| people.positive? }
    end

    def revisions(generation)
      rows = Analyses.answer(generation, "revisions", { from: FIRST - 6 }, as_of: LAST).picture[:rows]
      rows.sum { |row| row[:before].fetch("active") }
    end

    def activity(generation)
      picture(generation, "activity", { from: AS_OF - 364, step: "day" })[:trailing]["28"].sum
    end
  end
end
