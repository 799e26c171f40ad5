# frozen_string_literal: true

module Estrel
  class Lifecycle
    # States and activity of people each on a day of their own, such as the day before a message. One pass over the
    # activity, however many days there are.
    class Moments
      STEP = Ledger::Layout::KEY_STEP
      # After every day of everybody's.
      NOBODYS = 1 << 62
      private_constant :NOBODYS

      # @param lifecycle [Lifecycle]
      def initialize(lifecycle)
        @lifecycle = lifecycle
        @rule_set = lifecycle.rule_set
        days = lifecycle.activity.select([Polars.col("key").alias("found")])
        @activity = Polars.concat([days, Polars::DataFrame.new({ "found" => [NOBODYS] })]).rechunk
      end

      # @param rows [Polars::DataFrame] `profile_id` and `day` (number), in any order
      # @return [Polars::DataFrame] `state` at the end of the day before each row's, null for whom the rule set is not
      #   about; `last_day`, the last day of activity before it, or null; and `next_day`, the first one on or after it,
      #   or null
      def around(rows)
        found = days_around(rows)
        first = rows.select(["profile_id"]).join(first_days, on: "profile_id", how: "left")["first_day"]
        known = rows["profile_id"].is_in(@lifecycle.ledger.ids).alias("known")
        eve = (rows["day"] - 1).alias("day")
        Polars::DataFrame.new([eve, found["last_day"], first, known, found["next_day"]])
                         .select([state.alias("state"), Polars.col("last_day"), Polars.col("next_day")])
      end

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

      # The last day of activity of the same person before each row's day, and the first on or after it.
      def days_around(rows)
        profile = Polars.col("profile_id")
        asked = rows.with_row_index(name: "place")
                    .select([Polars.col("place"), profile, ((profile * STEP) + Polars.col("day") - 1).alias("asked")])
        sorted = !asked.select([(Polars.col("asked") < Polars.col("asked").shift(1)).any.alias("falls")])["falls"][0]
        asked = asked.sort("asked") unless sorted
        before = asked.join_asof(@activity.with_row_index(name: "at"), left_on: "asked", right_on: "found")
        after = @activity.select([Polars.all.gather((before["at"] + 1).fill_null(0))])["found"].alias("after")
        found = before.with_columns([after]).lazy.select(
          [Polars.col("place"), own_day("found").alias("last_day"), own_day("after").alias("next_day")]
        )
        (sorted ? found : found.sort("place")).collect
      end

      def own_day(key)
        own = Polars.col(key).floordiv(STEP) == Polars.col("profile_id")
        Polars.when(own).then(Polars.col(key) % STEP).otherwise(nil).cast(Polars::Int32)
      end

      # Of all time: one who was active only later was never active before, and has no day that is looked back to.
      def first_days
        ids = @lifecycle.ledger.ids
        at = @activity["found"].search_sorted(ids * STEP, side: "left")
        active = at.to_frame("at").filter(Polars.col("at") < @activity.height)["at"]
        key = Polars.col("found")
        @activity.select([Polars.all.gather(active)]).lazy
                 .select([key.floordiv(STEP).alias("profile_id"), (key % STEP).cast(Polars::Int32).alias("first_day")])
                 .unique(subset: "profile_id").collect
      end
    end
  end
end
