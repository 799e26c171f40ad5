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
        one = Polars.lit(1).cast(Polars::Int64).alias("weight")
        rows = weights ? rows.join(weights, on: "profile_id", how: "inner") : rows.with_columns([one])
        day = Polars.col("day")
        following = Polars.col("following")
        found = WINDOWS.to_h do |window|
          [window, covering(rows, steps, grouping, day, Polars.min_horizontal([day + window, following]))]
        end
        firsts = rows.filter(Polars.col("first"))
        found["total"] = covering(firsts, steps, grouping, day, Polars.max_horizontal([day, Polars.lit(Spells::NEVER)]))
        Array.new(grouping.size) { |group| found.transform_values { |counts| counts[group] } }
      end

      def compute_per_period(steps, grouping)
        rows = days(grouping).with_columns([steps.index(Polars.col("day")).alias("at")])
        profile = Polars.col("profile_id")
        at = Polars.col("at")
        # A person's first day in a period.
        once = rows.filter((at >= 1) & (at < steps.size))
        once = once.filter(profile.ne_missing(profile.shift(1)) | at.ne_missing(at.shift(1)))
        found = Array.new(grouping.size) { Array.new(steps.size - 1) { { new: 0, again: 0 } } }
        once.lazy.group_by(%w[group at
                              first]).agg([Polars.len.alias("n")]).collect.rows.each do |group, index, first, people|
          found[group][index - 1][first ? :new : :again] += people
        end
        found
      end

      def compute_days_per_person(date, grouping)
        last = Calendar.number(date)
        rows = days(grouping).filter(Polars.col("day").is_between(last - STICKY + 1, last))
        found = Array.new(grouping.size) { Array.new(STICKY, 0) }
        rows.lazy.group_by(%w[group profile_id]).agg([Polars.len.alias("days")]).group_by(%w[group days])
            .agg([Polars.len.alias("n")]).collect.rows.each { |group, days, people| found[group][days - 1] += people }
        found
      end

      # One row per activity day, by person and time: profile_id, group, day, following (the next day, or never), first.
      def days(grouping)
        @days ||= {}
        @days[grouping] ||= compute_days(grouping)
      end

      def compute_days(grouping)
        key = Polars.col("key")
        profile = Polars.col("profile_id")
        rows = @lifecycle.activity.select([key.floordiv(DAY).alias("profile_id"), (key % DAY).cast(Polars::Int32).alias("day")])
        same = profile == profile.shift(-1)
        rows = rows.with_columns([Polars.when(same).then(Polars.col("day").shift(-1)).otherwise(Spells::NEVER)
                                        .fill_null(Spells::NEVER).cast(Polars::Int32).alias("following"),
                                  profile.ne_missing(profile.shift(1)).alias("first")])
        grouping.spread(rows)
      end

      # How many stretches cover each date, per group.
      def covering(rows, steps, grouping, from, to)
        changes = Array.new(grouping.size) { Array.new(steps.size + 1, 0) }
        cut = rows.lazy.select([Polars.col("group"), Polars.col("weight"), steps.index(from).alias("from"),
                                steps.index(to).alias("to")])
                  .filter(Polars.col("from") < Polars.col("to")).collect
        { "from" => 1, "to" => -1 }.each do |name, sign|
          cut.lazy.group_by(["group", name]).agg([Polars.col("weight").sum.alias("n")]).collect.rows
             .each { |group, at, people| changes[group][at] += sign * people }
        end
        changes.map do |steps_of|
          steps_of[..-2].each_with_object([]) do |change, sums|
            sums << ((sums.last || 0) + change)
          end
        end
      end
    end
  end
end
