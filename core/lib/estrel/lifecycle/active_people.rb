# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How many people were active within the last so many days, how often, and whether for the first time.
    #
    # An activity day counts for its person until the next one or until the window has passed it by, so every window is
    # one pass over the activity days, however many dates are asked for.
    class ActivePeople
      # The days looked back over, beside all there are.
      WINDOWS = [1, 7, 28, 30].freeze
      # The window of {#days_per_person}.
      STICKY = 28
      DAY = Spells::DAY
      private_constant :DAY

      # @param lifecycle [Lifecycle]
      def initialize(lifecycle)
        @lifecycle = lifecycle
      end

      # @param steps [Steps]
      # @param grouping [Grouping]
      # @param weights [Polars::DataFrame, nil] `profile_id` and `weight`: what each person counts as; who is not named
      #   counts nothing. Without it everybody counts as one.
      # @return [Array<Hash{Integer, String => Array<Integer>}>] per group, for each of {WINDOWS} and for "total", how many
      #   people had been active within it at each date
      def trailing(steps, grouping, weights: nil)
        return compute_trailing(steps, grouping, weights) if weights

        @lifecycle.remembered(:trailing, steps, grouping) { compute_trailing(steps, grouping, nil) }
      end

      # @param steps [Steps] with periods
      # @param grouping [Grouping]
      # @return [Array<Array<Hash{Symbol => Integer}>>] per group and period `new` (active for the first time ever) and
      #   `again`: different people active in it
      def per_period(steps, grouping)
        @lifecycle.remembered(:per_period, steps, grouping) { compute_per_period(steps, grouping) }
      end

      # How many days each person was active on of the last {STICKY} days.
      #
      # @param date [Date]
      # @param grouping [Grouping]
      # @return [Array<Array<Integer>>] per group, for 1 to {STICKY} days, people
      def days_per_person(date, grouping)
        @lifecycle.remembered(:days_per_person, Steps.between(date), grouping) { compute_days_per_person(date, grouping) }
      end

      private

      def compute_trailing(steps, grouping, weights)
        rows = days(grouping)
        rows = rows.with_columns([Polars.col("key").floordiv(DAY).alias("profile_id")]).join(weights, on: "profile_id", how: "inner") if weights
        weight = weights && "weight"
        day = Polars.col("day")
        begun = reached(rows, day, steps, grouping, weight)
        found = WINDOWS.to_h do |window|
          over = reached(rows, Polars.min_horizontal([day + window, Polars.col("following")]), steps, grouping, weight)
          [window, begun.zip(over).map { |ones, others| ones.zip(others).map { |one, other| one - other } }]
        end
        found["total"] = reached(rows.filter(Polars.col("first")), day, steps, grouping, weight)
        Array.new(grouping.size) { |group| found.transform_values { |counts| counts[group] } }
      end

      def compute_per_period(steps, grouping)
        rows = days(grouping).select([Polars.col("key"), Polars.col("first"), Polars.col("group"), steps.index(Polars.col("day")).alias("at")])
        key, at = Polars.col("key"), Polars.col("at")
        rows = rows.filter((at >= 1) & (at < steps.size))
        # A person's first day in a period: keys of one person differ by less.
        once = rows.filter(((key - key.shift(1)) > Spells::APART).fill_null(true) | at.ne_missing(at.shift(1)))
        width = 2 * steps.size
        found = Array.new(grouping.size) { Array.new(steps.size - 1) { { new: 0, again: 0 } } }
        Tally.of(once, (Polars.col("group") * width) + (at * 2) + Polars.col("first").cast(Polars::Int32)).each do |code, people|
          group, rest = code.divmod(width)
          index, first = rest.divmod(2)
          found[group][index - 1][first == 1 ? :new : :again] += people
        end
        found
      end

      def compute_days_per_person(date, grouping)
        last = Calendar.number(date)
        rows = days(grouping).filter(Polars.col("day").is_between(last - STICKY + 1, last))
        found = Array.new(grouping.size) { Array.new(STICKY, 0) }
        each = rows.select([Polars.col("group"), Polars.col("key").floordiv(DAY).alias("profile_id")])
                   .group_by("profile_id").agg([Polars.col("group").first, Polars.len.alias("days")])
        Tally.of(each, (Polars.col("group") * (STICKY + 1)) + Polars.col("days")).each do |code, people|
          group, days = code.divmod(STICKY + 1)
          found[group][days - 1] += people
        end
        found
      end

      # One row per activity day, by person and time: key, group, day, following (the next day, or never), first.
      def days(grouping)
        @days ||= {}
        @days[grouping] ||= compute_days(grouping)
      end

      def compute_days(grouping)
        key = Polars.col("key")
        step = key.shift(-1) - key
        day = (key % DAY).cast(Polars::Int32)
        same = (step < Spells::APART).fill_null(false)
        rows = @lifecycle.activity.select(
          [key, day.alias("day"), Polars.when(same).then(day + step).otherwise(Spells::NEVER).cast(Polars::Int32).alias("following"),
           ((key - key.shift(1)) > Spells::APART).fill_null(true).alias("first")]
        )
        grouping.spread_keys(rows)
      end

      # How much lies on or before each date, per group.
      def reached(rows, day, steps, grouping, weight)
        width = steps.size + 1
        counts = Tally.of(rows, (Polars.col("group") * width) + steps.index(day), weight: weight)
        Tally.running(counts, grouping.size, width).map { |sums| sums[..-2] }
      end
    end
  end
end
