# frozen_string_literal: true

module Estrel
  module Visits
    # The visits of everybody, for telling which visit an event belongs to.
    #
    # All events from a day on are put in order once; what is kept is where visits start. A visit that was under way
    # when that day began starts with its first event of the day here: which events share a visit is the same.
    class Index
      # @param ledger [Ledger::Readable]
      # @param gap [Integer] as in {Visits.of}
      # @param from [Date, nil] events before this day are not needed
      def initialize(ledger, gap, from: nil)
        @ledger = ledger
        @gap = gap
        @from = from
        @timeline = ledger.timeline
        @quick = @timeline.fits? && gap <= Ledger::Timeline::MAX_GAP
        @starts = @quick ? starts_by_key : starts_by_profile
      end

      # @param rows [Polars::DataFrame] with `profile_id` and `occurred_at`, sorted by both, and `key`, where all have
      #   numbers
      # @return [Polars::DataFrame] the same with `visit`, a number that no two visits share and that never falls from
      #   row to row, and `visit_start`, the instant of its first event
      def marked(rows) = @quick ? marked_by_key(rows) : marked_by_profile(rows)

      # @return [Integer] bytes
      def estimated_size = @starts.estimated_size

      private

      def at = Polars.col("occurred_at")

      # Profiles lie further apart than any gap, so one comparison finds where visits start.
      def starts_by_key
        keys = frames(["key"])
        return Polars::DataFrame.new({ "key" => [] }, schema: { "key" => Polars::UInt64 }) if keys.empty?

        key = Polars.col("key")
        Polars.concat(keys).sort("key").filter(((key - key.shift(1)) > @gap).fill_null(true))
      end

      def marked_by_key(rows)
        starts = @starts.with_columns([Polars.col("key").alias("visit")])
        found = rows.join_asof(starts, on: "key", strategy: "backward")
        found.with_columns([@timeline.instant(Polars.col("visit")).alias("visit_start")])
      end

      def starts_by_profile
        columns = { "profile_id" => Polars::Int64, "occurred_at" => Polars::Int64 }
        none = Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
        profile = Polars.col("profile_id")
        begins = profile.ne_missing(profile.shift(1)) | ((at - at.shift(1)) > @gap)
        Polars.concat([none, *frames(columns.keys)]).sort(columns.keys).filter(begins).with_row_index(name: "visit")
      end

      def marked_by_profile(rows)
        starts = @starts.with_columns([at.alias("visit_start")])
        rows.join_asof(starts, on: "occurred_at", by: "profile_id", strategy: "backward")
      end

      def frames(columns)
        @ledger.catalogue.event_types.each_key.map { |type| @timeline.events(type, @from).select(columns) }
      end
    end
  end
end
