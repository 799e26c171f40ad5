# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Runs a policy over history: at each of some past dates, who was called churned, and how many of them came back
    # within so many days from then.
    class Backtest
      WITHIN = [30, 60, 90].freeze

      # One date: `date`; `churned` people and, of them, `newly` called so since the date before; how many of each were
      # active again within each of {WITHIN} days (nil where those days have not passed as of the day looked from).
      Row = Struct.new(:date, :churned, :newly, :back, :newly_back, keyword_init: true)

      # @param lifecycle [Lifecycle]
      # @param as_of [Date] the day looked from
      def initialize(lifecycle, as_of)
        @lifecycle = lifecycle
        @as_of = as_of
      end

      # @param steps [Steps] the past dates
      # @return [Array<Row>] one per date but the first
      def rows(steps)
        everybody = Grouping.everybody(@lifecycle.ledger)
        @lifecycle.remembered([:backtest, @as_of], steps, everybody) { compute(steps) }
      end

      private

      def compute(steps)
        found = { churned: counts(steps, nil), **WITHIN.to_h { |days| [days, counts(steps, days)] } }
        steps.dates.each_with_index.drop(1).map do |date, index|
          told = ->(name) { WITHIN.to_h { |days| [days, date + days <= @as_of ? found[days][name][index] : nil] } }
          Row.new(date: date, churned: found[:churned][:all][index], newly: found[:churned][:newly][index],
                  back: told.call(:all), newly_back: told.call(:newly))
        end
      end

      # How many spells leave somebody churned at each date; with days, only those followed by another within them.
      def counts(steps, days)
        churned = Polars.col("last") + @lifecycle.policy.churned_after
        following = Polars.col("next_start")
        # Activity after the day looked from is not known.
        following = Polars.when(following > Calendar.number(@as_of)).then(Spells::NEVER).otherwise(following)
        from = days ? Polars.max_horizontal([churned, following - days]) : churned
        { all: covered(steps, from, following), newly: newly(steps, churned, from, following) }
      end

      def covered(steps, from, to)
        cut = ends(steps, from, to)
        changes = Array.new(steps.size + 1, 0)
        { "from" => 1, "to" => -1 }.each do |name, sign|
          tally(cut, name).each { |at, people| changes[at] += sign * people }
        end
        changes[..-2].each_with_object([]) { |change, sums| sums << ((sums.last || 0) + change) }
      end

      # Those who became churned since the date before: the first date they are churned at, where the way back from it
      # is short enough.
      def newly(steps, churned, from, to)
        first = ends(steps, churned, to)
        reached = ends(steps, from, to).rename({ "from" => "reached" })
        counts = Array.new(steps.size + 1, 0)
        both = first.hstack(reached.select(["reached"]))
        tally(both.filter((Polars.col("from") < Polars.col("to")) & (Polars.col("reached") <= Polars.col("from"))),
              "from", all: true)
          .each do |at, people|
          counts[at] += people
        end
        counts
      end

      def ends(steps, from, to)
        @lifecycle.spells.select([steps.index(from).alias("from"), steps.index(to).alias("to")])
      end

      def tally(cut, name, all: false)
        cut = cut.filter(Polars.col("from") < Polars.col("to")) unless all
        Tally.of(cut, Polars.col(name))
      end
    end
  end
end
