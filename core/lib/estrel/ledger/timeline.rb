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
        @generation = generation
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

      # An event type's events with their numbers. Those of all events are remembered, since many questions need them;
      # those of the last days are had for less.
      #
      # @param type [String]
      # @param first [Date, nil] events before this day are left out
      # @return [Polars::DataFrame] the columns of {Generation#events} and, where all have numbers, `key`
      def events(type, first)
        events = @generation.events(type)
        events = events.filter(Polars.col("day") >= Calendar.number(first)) if first
        return events unless fits?

        numbers = -> { events.select([key(Polars.col("occurred_at")).alias("key")])["key"] }
        events.with_columns([first ? numbers.call : @generation.cache.fetch([:timeline_keys, type], &numbers)])
      end

      # The latest row of another frame that lies before each row (or at the same instant, where that will do), of the
      # same profile.
      #
      # @param rows [Polars::DataFrame] with `profile_id` and `occurred_at`, sorted by both, and `key`, where profiles and
      #   instants have numbers
      # @param earlier [Polars::DataFrame] likewise
      # @param name [String] of the column that gets the instant found, null where there is none
      # @param strictly [Boolean] whether the row found must lie before
      # @return [Polars::DataFrame] the rows with that column
      def look_back(rows, earlier, name, strictly: true)
        return look_back_by_profile(rows, earlier, name, strictly) unless fits?

        look = earlier.select([Polars.col("key").alias("earlier"), Polars.col("profile_id").alias("owner"),
                               Polars.col("occurred_at").alias(name)])
        rows = rows.with_columns([(Polars.col("key") - (strictly ? 1 : 0)).alias("until")])
        found = rows.join_asof(look, left_on: "until", right_on: "earlier", strategy: "backward")
        own = Polars.col("owner") == Polars.col("profile_id")
        found.with_columns([Polars.when(own).then(Polars.col(name)).otherwise(nil).alias(name)])
             .drop(%w[until earlier owner] & found.columns)
      end

      private

      def look_back_by_profile(rows, earlier, name, strictly)
        look = earlier.select([Polars.col("profile_id"), Polars.col("occurred_at").alias("until"),
                               Polars.col("occurred_at").alias(name)])
        rows.with_columns([(Polars.col("occurred_at") - (strictly ? 1 : 0)).alias("until")])
            .join_asof(look, on: "until", by: "profile_id", strategy: "backward").drop("until")
      end
    end
  end
end
