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
      # People among whom somebody alike is looked for at first; then among so many times as many.
      FIRST = 2_000
      MORE = 8
      # Rows of people and days that are looked at in one go.
      ROWS = 4_000_000
      STEP = Ledger::Layout::KEY_STEP
      ALIKE = %w[day state about].freeze
      private_constant :MULTIPLIER, :MODULUS, :STEP, :ALIKE

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
        @done = done(people["day"].min.to_i - @before, people["day"].max.to_i - 1)
        seek(alike(people.select(%w[profile_id day])), pool(taken))
      end

      private

      # Whom there is to be matched with, shuffled.
      def pool(taken)
        @evaluator.first_seen.join(taken.rename({ "day" => "taken_on" }), on: "profile_id", how: "left")
                  .with_columns([shuffled]).sort("order").drop("order")
      end

      # Somebody alike for each, looked for among ever more of the pool until there is nobody without, or no more. Who
      # comes at which place among those alike stays the same when more are looked at.
      def seek(own, pool)
        found = []
        size = FIRST
        loop do
          found << among(pool.head(size), own)
          own = own.join(found.last, on: %w[profile_id day], how: "anti")
          break if own.height.zero? || size >= pool.height

          size *= MORE
        end
        Polars.concat(found).select(%w[profile_id matched_id day])
      end

      def among(pool, own)
        days = own.select(["day"]).unique.sort("day")
        size = [ROWS / [pool.height, 1].max, 1].max
        Polars.concat((0...days.height).step(size).map { |first| match(pool, days.slice(first, size), own) })
      end

      def match(pool, days, own)
        day = Polars.col("day")
        free = (Polars.col("first_seen_day") <= day - @before) &
               (Polars.col("taken_on").is_null | (Polars.col("taken_on") > day + @after))
        others = alike(pool.join(days, how: "cross").filter(free).select(%w[profile_id day]))
        own.join(others.rename({ "profile_id" => "matched_id" }), on: [*ALIKE, "place"], how: "inner")
      end

      # People on a day with what they are matched by, and a place among those alike.
      def alike(rows)
        state = @moments.states(rows.with_columns([(Polars.col("day") - 1).alias("day")]))
        rows.with_columns([state.alias("state"), counts(rows).alias("n")])
            .filter(Polars.col("state").is_not_null).with_columns([about.alias("about"), shuffled])
            .with_columns([Polars.col("order").rank(method: "ordinal").over(ALIKE).alias("place")])
            .select(["profile_id", *ALIKE, "place"])
      end

      def shuffled = ((Polars.col("profile_id") * MULTIPLIER) % MODULUS).alias("order")

      # The measured events in their order, each with how many there are up to it.
      def done(from, to)
        key = ((Polars.col("profile_id") * STEP) + Polars.col("day")).alias("key")
        @measure.events(@evaluator, from, to).select([key]).sort("key").with_row_index(name: "n", offset: 1)
      end

      # How many events each had in the days before.
      def counts(rows) = up_to(rows, Polars.col("day") - 1) - up_to(rows, Polars.col("day") - @before - 1)

      # How many events there are up to a day of a person, those of all people before counted too.
      def up_to(rows, day)
        asked = rows.select([((Polars.col("profile_id") * STEP) + day).alias("key")]).with_row_index(name: "row")
        asked.sort("key").join_asof(@done, on: "key", strategy: "backward").sort("row")["n"].cast(Polars::Int64)
             .fill_null(0)
      end

      # 0, 1, 2, 3 to 4, 5 to 8, and so on.
      def about
        n = Polars.col("n").cast(Polars::Float64)
        Polars.when(n < 1).then(Polars.lit(-1.0)).otherwise(n.log(2.0).ceil).cast(Polars::Int64)
      end
    end
  end
end
