# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Runs lifecycle rules over history: at each of some past dates, who was called churned, and how many of them came
    # back within so many days from then. What is counted adds up over the parts of a ledger.
    class Backtest
      WITHIN = [30, 60, 90].freeze

      # One date: `date`; `churned` people and, of them, `newly` called so since the date before; how many of each were
      # active again within each of {WITHIN} days (nil where those days have not passed as of the day looked from).
      Row = Struct.new(:date, :churned, :newly, :back, :newly_back, keyword_init: true)

      # @param counts [Hash] of {#counts}
      # @param steps [Steps] the same
      # @param as_of [Date] the same
      # @return [Array<Row>] one per date but the first
      def self.rows(counts, steps, as_of)
        steps.dates.each_with_index.drop(1).map do |date, index|
          told = ->(name) { WITHIN.to_h { |days| [days, date + days <= as_of ? counts[days][name][index] : nil] } }
          Row.new(date: date, churned: counts[:churned][:all][index], newly: counts[:churned][:newly][index],
                  back: told.call(:all), newly_back: told.call(:newly))
        end
      end

      # @param lifecycle [Lifecycle]
      # @param as_of [Date] the day looked from
      def initialize(lifecycle, as_of)
        @lifecycle = lifecycle
        @as_of = as_of
      end

      # @param steps [Steps] the past dates
      # @return [Hash] for `:churned` and each of {WITHIN}, `all` and `newly`: people at each date; `people`, how many
      #   different ones are newly churned at a date of which all is known; and `between`, how often somebody became
      #   churned and was back before the next date
      def counts(steps)
        { churned: within(steps, nil), **WITHIN.to_h { |days| [days, within(steps, days)] },
          people: people(steps), between: between(steps) }
      end

      private

      def churned = Polars.col("last") + @lifecycle.rule_set.churned_after

      # Activity after the day looked from is not known.
      def following
        start = Polars.col("next_start")
        Polars.when(start > Calendar.number(@as_of)).then(Spells::NEVER).otherwise(start)
      end

      def people(steps)
        told = steps.dates.count { |date| date + WITHIN.max <= @as_of }
        at = Polars.col("from")
        rows = ends(steps, churned, following)
        rows.filter((at >= 1) & (at < told) & (at < Polars.col("to")))["profile_id"].n_unique
      end

      def between(steps)
        at = Polars.col("from")
        went = @lifecycle.spells.filter(churned < following)
        ends(steps, churned, following, went).filter((at >= 1) & (at < steps.size) & (at == Polars.col("to"))).height
      end

      # How many spells leave somebody churned at each date; with days, only those followed by another within them.
      def within(steps, days)
        from = days ? Polars.max_horizontal([churned, following - days]) : churned
        { all: covered(steps, from, following), newly: newly(steps, churned, from, following) }
      end

      # How many stretches of dates cover each.
      def covered(steps, from, to)
        cut = ends(steps, from, to).filter(Polars.col("from") < Polars.col("to"))
        begun, over = %w[from to].map do |name|
          Tally.running(Tally.of(cut, Polars.col(name)), 1, steps.size + 1).first
        end
        begun.zip(over).map { |one, other| one - other }
      end

      # Those who became churned since the date before: the first date they are churned at, where the way back from it
      # is short enough.
      def newly(steps, churned, from, to)
        first = ends(steps, churned, to)
        reached = ends(steps, from, to)["from"].alias("reached")
        at = Polars.col("from")
        rows = first.with_columns([reached]).filter((at < Polars.col("to")) & (Polars.col("reached") <= at))
        counts = Tally.of(rows, at)
        Array.new(steps.size) { |index| counts.fetch(index, 0) }
      end

      def ends(steps, from, to, spells = @lifecycle.spells)
        spells.select(["profile_id", steps.index(from).alias("from"), steps.index(to).alias("to")])
      end
    end
  end
end
