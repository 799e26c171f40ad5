# frozen_string_literal: true

module Estrel
  class Ledger
    # One number for a profile and an instant, in the order of both: sorting and looking back by one column is many
    # times faster than by two. Profiles lie so far apart that no look back of up to a gap reaches from one to another.
    class Timeline
      LIMIT = 2**64
      # The longest gap that keeps profiles apart.
      MAX_GAP = 86_400 * Calendar::MICROS

      # In how many parts a ledger has to be asked, so that all have numbers in each.
      #
      # @param ids [Polars::Series] sorted profile ids
      # @param span [Integer] from the oldest event to the newest, microseconds
      # @return [Integer]
      def self.parts(ids, span)
        numbers = ((ids[-1] || 0) - (ids[0] || 0) + 2) * (span + MAX_GAP + 2)
        # A tenth more, since profile ids may lie closer together in one part than in another; and one of several parts
        # may hold twice its share of the profiles.
        parts = numbers.fdiv(LIMIT) * 1.1
        (parts > 1 ? 2 * parts : parts).ceil.clamp(1, [ids.len, 1].max)
      end

      # @param ledger [Readable]
      def initialize(ledger)
        @generation = ledger
        @first, last = ledger.bounds || [0, 0]
        @step = last - @first + MAX_GAP + 2
        ids = ledger.ids
        @lowest = ids.min || 0
        @profiles = (ids.max || 0) - @lowest + 2
      end

      # @return [Boolean] whether all profiles and instants have a number
      def fits? = @profiles * @step < LIMIT

      # @param at [Polars::Expr] instants, or one microsecond less
      # @return [Polars::Expr] the numbers, in a frame with `profile_id`
      def key(at)
        number = ->(value) { Polars.lit(value % LIMIT).cast(Polars::UInt64) }
        shift = [@first - 1, 0].min # nothing below zero
        at -= shift if shift.negative?
        # (profile - lowest) * step + at - first + 1 with the constants taken together, which saves passes; what runs
        # over on the way runs back.
        (Polars.col("profile_id").cast(Polars::UInt64) * number.call(@step)) + at.cast(Polars::UInt64) -
          number.call((@lowest * @step) + @first - shift - 1)
      end

      # @param rows [Polars::DataFrame] with `profile_id` and `occurred_at`
      # @return [Polars::DataFrame] the same, with `key`, where all have numbers
      def numbered(rows) = fits? ? rows.with_columns([key(Polars.col("occurred_at")).alias("key")]) : rows

      # What tells apart and puts in order the visits of rows with `profile_id` and `visit_start`.
      #
      # @return [Array<Polars::Expr>] to be selected
      def visit_number
        return [key(Polars.col("visit_start")).alias("visit")] if fits?

        [Polars.col("profile_id").alias("visitor"), Polars.col("visit_start").alias("visit")]
      end

      # An event type's events with their numbers. Those of all events are remembered, since many questions need them;
      # those of the last days are had for less.
      #
      # @param type [String]
      # @param first [Date, nil] events before this day are left out
      # @param beside [Array<String>] what is wanted of the spine, see {Readable#beside}
      # @param only [Array<String>, nil] see {Readable#events_beside}
      # @return [Polars::DataFrame] the columns of {Generation#events}, what stands beside, and, where all have numbers,
      #   `key`
      def events(type, first, beside = [], only: nil)
        events = @generation.events_beside(type, beside, first, only: only)
        return events unless fits?

        numbers = -> { events.select([key(Polars.col("occurred_at")).alias("key")])["key"] }
        events.with_columns([first ? numbers.call : @generation.cache.fetch([:timeline_keys, type], &numbers)])
      end

      # The latest row of another frame that lies before each row, of the same profile.
      #
      # @param rows [Polars::DataFrame] with `profile_id` and `occurred_at`, sorted by both, and `key`, where all have
      #   numbers
      # @param earlier [Polars::DataFrame] likewise
      # @param wanted [String] which column of the row found
      # @return [Polars::Series] the instants found, null where there is none
      def look_back(rows, earlier, wanted = "occurred_at") = look(rows, earlier, number - 1, "backward", wanted)

      # The row of another frame at the instant of each row, of the same profile.
      #
      # @param rows [Polars::DataFrame] as in {#look_back}; each has such a row
      # @param others [Polars::DataFrame] as in {#look_back}
      # @param wanted [String] which column of the row found
      # @return [Polars::Series] what stands there
      def look_at(rows, others, wanted) = look(rows, others, number, "backward", wanted)

      # The earliest row of another frame that lies after each row, of the same profile.
      #
      # @param rows [Polars::DataFrame] as in {#look_back}
      # @param later [Polars::DataFrame] likewise
      # @param wanted [String] the column of that row to return
      # @return [Polars::Series] the instants, or what is wanted; null where there is no such row
      def look_forward(rows, later, wanted = "occurred_at") = look(rows, later, number + 1, "forward", wanted)

      # The newest value that each row's profile had by the row's instant.
      #
      # @param rows [Polars::DataFrame] as in {#look_back}
      # @param values [Polars::DataFrame] `profile_id`, `occurred_at` and `value`, sorted by the first two; any of them
      #   may be older or newer than all events
      # @return [Polars::Series] null where there is none
      def standing(rows, values)
        columns = %w[profile_id occurred_at value]
        unless fits?
          by_time = { on: "occurred_at", by: "profile_id", strategy: "backward" }
          return rows.select(columns.first(2)).join_asof(values.select(columns), **by_time)["value"]
        end

        own = Polars.col("owner") == Polars.col("profile_id")
        rows.select(%w[profile_id key]).join_asof(standing_values(values), on: "key", strategy: "backward")
            .select([Polars.when(own).then(Polars.col("value")).otherwise(nil).alias("value")])["value"]
      end

      # From when on numbers hold, for {#holding}: of every profile none at first.
      #
      # @param numbers [Polars::DataFrame] `profile_id`, `occurred_at` and `code`, as in {#standing}
      # @return [Polars::DataFrame]
      def runs(numbers)
        numbers = numbers.select([Polars.col("profile_id"), Polars.col("occurred_at"),
                                  Polars.col("code").cast(Polars::Int64).alias("value")])
        return numbers unless fits?

        start = @generation.ids.cast(Polars::Int64).alias("profile_id").to_frame
                           .with_columns([Polars.lit(@first - 1).cast(Polars::Int64).alias("occurred_at"),
                                          Polars.lit(nil).cast(Polars::Int64).alias("value")])
        start = start.select([key(Polars.col("occurred_at")).alias("key"), Polars.col("value")])
        Polars.concat([start, standing_values(numbers).select(%w[key value])]).sort("key")
      end

      # The newest number that each row's profile had by the row's instant. Where each begins to hold is found by
      # halving, so few numbers for many rows take hardly longer than writing them down.
      #
      # @param rows [Polars::DataFrame] as in {#look_back}
      # @param runs [Polars::DataFrame] of {#runs}
      # @return [Polars::Series] null where there is none
      def holding(rows, runs)
        return standing(rows, runs) unless fits?

        place = Polars.col("key").search_sorted(Polars.lit(runs["key"]), side: "left").cast(Polars::Int64)
        at = numbered(rows).select([place.alias("at")])["at"]
        length = Polars.col("at").shift(-1).fill_null(rows.height) - Polars.col("at")
        runs.with_columns([at]).with_columns([length.alias("length")]).filter(Polars.col("length") != 0)
            .select([Polars.col("value").repeat_by("length")]).explode("value")["value"]
      end

      private

      # Values older than every event count as set at the first; those newer than all are of no use.
      def standing_values(values)
        at = Polars.col("occurred_at")
        rows = values.filter(at <= @first + @step - MAX_GAP - 2)
                     .with_columns([Polars.when(at < @first).then(@first).otherwise(at).alias("occurred_at")])
        rows.select([key(at).alias("key"), Polars.col("profile_id").alias("owner"), Polars.col("value")])
            .unique(subset: "key", keep: "last", maintain_order: true)
      end

      # What tells the order of one profile's events.
      def number = Polars.col(fits? ? "key" : "occurred_at")

      def look(rows, others, from, strategy, wanted = "occurred_at")
        profile, found = %w[profile_id found].map { |name| Polars.col(name) }
        there = others.select([number.alias("there"), profile.alias("owner"), Polars.col(wanted).alias("found")])
        probe = rows.select([profile, from.alias("here")])
        on = { left_on: "here", right_on: "there", strategy: strategy }
        return probe.join_asof(there, **on, by_left: "profile_id", by_right: "owner")["found"] unless fits?

        own = Polars.col("owner") == profile
        probe.join_asof(there, **on).select([Polars.when(own).then(found).otherwise(nil).alias("found")])["found"]
      end
    end
  end
end
