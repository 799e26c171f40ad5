# frozen_string_literal: true

module Estrel
  class Ledger
    # One number for a profile and an instant, in the order of both: sorting and looking back by one column is many
    # times faster than by two. Profiles lie so far apart that no look back of up to a gap reaches from one to another.
    class Timeline
      LIMIT = 2**64
      # The longest gap that keeps profiles apart.
      MAX_GAP = 86_400 * Calendar::MICROS

      # @param generation [Generation]
      def initialize(generation)
        at = Polars.col("occurred_at")
        bounds = generation.catalogue.event_types.each_key.flat_map do |type|
          generation.events(type).select([at.min.alias("first"), at.max.alias("last")]).row(0).compact
        end
        @first = bounds.min || 0
        @step = (bounds.max || 0) - @first + MAX_GAP + 2
        @profiles = (generation.profiles["profile_id"].max || 0) + 2
      end

      # @return [Boolean] whether all profiles and instants have a number
      def fits? = @profiles * @step < LIMIT

      # @param at [Polars::Expr] instants, or one microsecond less
      # @return [Polars::Expr] the numbers, in a frame with `profile_id`
      def key(at)
        (Polars.col("profile_id").cast(Polars::UInt64) * Polars.lit(@step).cast(Polars::UInt64)) +
          (at - (@first - 1)).cast(Polars::UInt64)
      end

      # @param key [Polars::Expr]
      # @return [Polars::Expr] the profile of a number
      def profile(key) = key.floordiv(Polars.lit(@step).cast(Polars::UInt64)).cast(Polars::Int64)

      # @param key [Polars::Expr]
      # @return [Polars::Expr] the instant of a number
      def instant(key) = (key % Polars.lit(@step).cast(Polars::UInt64)).cast(Polars::Int64) + (@first - 1)

      # The latest row of another frame that lies at or before each row, of the same profile.
      #
      # @param rows [Polars::DataFrame] with `profile_id`, sorted by it and by what `at` says
      # @param at [Polars::Expr] instants on the rows
      # @param earlier [Polars::DataFrame] with `profile_id` and `occurred_at`, sorted by both
      # @param name [String] of the column that gets the instant found, null where there is none
      # @return [Polars::DataFrame] the rows with that column
      def look_back(rows, at, earlier, name)
        return look_back_by_profile(rows, at, earlier, name) unless fits?

        look = earlier.select([key(Polars.col("occurred_at")).alias("key"), Polars.col("profile_id").alias("owner"),
                               Polars.col("occurred_at").alias(name)])
        found = rows.with_columns([key(at).alias("key")]).join_asof(look, on: "key", strategy: "backward")
        own = Polars.col("owner") == Polars.col("profile_id")
        found.with_columns([Polars.when(own).then(Polars.col(name)).otherwise(nil).alias(name)]).drop(%w[key owner])
      end

      private

      def look_back_by_profile(rows, at, earlier, name)
        look = earlier.select([Polars.col("profile_id"), Polars.col("occurred_at").alias("key"),
                               Polars.col("occurred_at").alias(name)])
        rows.with_columns([at.alias("key")]).join_asof(look, on: "key", by: "profile_id",
                                                             strategy: "backward").drop("key")
      end
    end
  end
end
