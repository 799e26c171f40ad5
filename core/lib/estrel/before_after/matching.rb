# frozen_string_literal: true

module Estrel
  class BeforeAfter
    # Finds for each person somebody who was alike on the day before but did not do it: in the same state, with about
    # as many events of the measured kind in the days before (none, 1, 2, 3 to 4, 5 to 8, … are about as many), known
    # for as long, and not having done it by the end of the days after.
    #
    # Who is taken of several alike is settled by the profiles' numbers, shuffled always in the same way. The same
    # person can stand beside others on several days, but once on each.
    class Matching
      # Shuffles numbers: Knuth's multiplicative hash.
      MULTIPLIER = 2_654_435_761
      MODULUS = 2**32
      private_constant :MULTIPLIER, :MODULUS

      # @param evaluator [Audience::Evaluator] with a policy
      # @param start [Start]
      # @param measure [Measure]
      # @param before [Integer] days
      # @param after [Integer] days
      def initialize(evaluator, start, measure, before:, after:)
        @evaluator = evaluator
        @start = start
        @measure = measure
        @before = before
        @after = after
      end

      # @param people [Polars::DataFrame] `profile_id` and `day`
      # @return [Polars::DataFrame, nil] `profile_id`, `matched_id` and `day` of whom there is a match for; nil where
      #   there can be none
      def pairs(people)
        taken = @start.taken(@evaluator)
        return if taken.nil? || people.height.zero? || !@evaluator.states?

        @moments = Lifecycle::Moments.new(@evaluator.lifecycle)
        @taken = taken.rename({ "day" => "taken_on" })
        Polars.concat(people["day"].unique.sort.to_a.map { |day| on(day, people) })
      end

      private

      def on(day, people)
        own = alike(people.filter(Polars.col("day") == day).select(["profile_id"]), day)
        others = alike(pool(day), day).rename({ "profile_id" => "matched_id" })
        own.join(others, on: %w[state about place], how: "inner")
           .select([Polars.col("profile_id"), Polars.col("matched_id"),
                    Polars.lit(day).cast(Polars::Int32).alias("day")])
      end

      def pool(day)
        known = @evaluator.first_seen.filter(Polars.col("first_seen_day") <= day - @before)
        known.join(@taken, on: "profile_id", how: "left")
             .filter(Polars.col("taken_on").is_null | (Polars.col("taken_on") > day + @after)).select(["profile_id"])
      end

      # People with what they are matched by, and a place among those alike.
      def alike(ids, day)
        counts = @measure.events(@evaluator, day - @before, day - 1).lazy.group_by("profile_id")
                         .agg([Polars.len.cast(Polars::Int64).alias("n")]).collect
        state = @moments.states(ids.with_columns([Polars.lit(day - 1).cast(Polars::Int32).alias("day")]))
        rows = ids.with_columns([state.alias("state")]).join(counts, on: "profile_id", how: "left")
        shuffled = ((Polars.col("profile_id") * MULTIPLIER) % MODULUS).alias("order")
        rows.filter(Polars.col("state").is_not_null).with_columns([about.alias("about"), shuffled])
            .with_columns([Polars.col("order").rank(method: "ordinal").over(%w[state about]).alias("place")])
            .select(%w[profile_id state about place])
      end

      # 0, 1, 2, 3 to 4, 5 to 8, and so on.
      def about
        n = Polars.col("n").fill_null(0).cast(Polars::Float64)
        Polars.when(n < 1).then(Polars.lit(-1.0)).otherwise(n.log(2.0).ceil).cast(Polars::Int64)
      end
    end
  end
end
