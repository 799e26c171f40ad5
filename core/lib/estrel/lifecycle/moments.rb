# frozen_string_literal: true

module Estrel
  class Lifecycle
    # States and activity of people each on a day of their own, such as the day before a message. One pass over the
    # activity, however many days there are.
    class Moments
      STEP = Ledger::Layout::KEY_STEP

      # @param lifecycle [Lifecycle]
      def initialize(lifecycle)
        @lifecycle = lifecycle
        @rule_set = lifecycle.rule_set
        @activity = lifecycle.activity.select([Polars.col("key").alias("found")])
      end

      # @param rows [Polars::DataFrame] `profile_id` and `day` (number), in any order
      # @return [Polars::Series] `state` at the end of each row's day; null for whom the rule set is not about
      def states(rows)
        last = nearest(rows, "backward").alias("last_day")
        first = rows.select(["profile_id"]).join(first_days, on: "profile_id", how: "left")["first_day"]
        known = rows["profile_id"].is_in(@lifecycle.ledger.profiles["profile_id"]).alias("known")
        Polars::DataFrame.new([rows["day"], last, first, known]).select([state.alias("state")])["state"]
      end

      # @param rows [Polars::DataFrame] `profile_id` and `day` (number), in any order
      # @return [Polars::Series] the first day of activity on or after each row's day, or null
      def next_days(rows) = nearest(rows, "forward")

      private

      def state
        inactive = Polars.col("day") - Polars.col("last_day")
        Polars.when(Polars.col("known").is_not).then(Polars.lit(nil).cast(Polars::String))
              .when(Polars.col("last_day").is_null).then(Polars.lit("never_active"))
              .when(inactive >= @rule_set.churned_after).then(Polars.lit("churned"))
              .when(inactive >= @rule_set.active_within).then(Polars.lit("dormant"))
              .when((Polars.col("day") - Polars.col("first_day")) < @rule_set.new_for).then(Polars.lit("new"))
              .otherwise(Polars.lit("active"))
      end

      # The day of activity of the same person that lies nearest, looking back or ahead.
      def nearest(rows, strategy)
        profile = Polars.col("profile_id")
        asked = rows.with_row_index(name: "place")
                    .select([Polars.col("place"), profile, ((profile * STEP) + Polars.col("day")).alias("asked")])
        sorted = !asked.select([(Polars.col("asked") < Polars.col("asked").shift(1)).any.alias("falls")])["falls"][0]
        asked = asked.sort("asked") unless sorted
        found = asked.join_asof(@activity, left_on: "asked", right_on: "found", strategy: strategy)
        own = Polars.col("found").floordiv(STEP) == profile
        day = Polars.when(own).then(Polars.col("found") % STEP).otherwise(nil)
        found = found.select([Polars.col("place"), day.cast(Polars::Int32).alias("day")])
        (sorted ? found : found.sort("place"))["day"]
      end

      # Of all time: one who was active only later was never active before, and has no day that is looked back to.
      def first_days
        key = Polars.col("found") # sorted
        profile = key.floordiv(STEP)
        @activity.lazy.filter((profile != profile.shift(1)).fill_null(true))
                 .select([profile.alias("profile_id"), (key % STEP).cast(Polars::Int32).alias("first_day")]).collect
      end
    end
  end
end
