# frozen_string_literal: true

module Estrel
  module Visits
    # The visits of everybody, for telling which visit an event belongs to.
    #
    # All events of a ledger are put in order once; what is kept is where visits start.
    class Index
      # @param generation [Ledger::Generation]
      # @param gap [Integer] as in {Visits.of}
      def initialize(generation, gap)
        @timeline = generation.timeline
        quick = @timeline.fits? && gap <= Ledger::Timeline::MAX_GAP
        @starts = quick ? by_key(generation, gap) : by_profile(generation, gap)
      end

      # @param rows [Polars::DataFrame] with `profile_id` and `occurred_at`, sorted by both
      # @return [Polars::DataFrame] the same with `visit`: the instant at which the event's visit started
      def marked(rows) = @timeline.look_back(rows, Polars.col("occurred_at"), @starts, "visit")

      # @return [Integer] bytes
      def estimated_size = @starts.estimated_size

      private

      # Profiles lie further apart than any gap, so one comparison finds where visits start.
      def by_key(generation, gap)
        keys = frames(generation).map { |frame| frame.select([@timeline.key(Polars.col("occurred_at")).alias("key")]) }
        return by_profile(generation, gap) if keys.empty?

        key = Polars.col("key")
        begins = ((key - key.shift(1)) > gap).fill_null(true)
        starts = Polars.concat(keys).sort("key").filter(begins)
        starts.select([@timeline.profile(key).alias("profile_id"), @timeline.instant(key).alias("occurred_at")])
      end

      def by_profile(generation, gap)
        columns = { "profile_id" => Polars::Int64, "occurred_at" => Polars::Int64 }
        none = Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
        profile, at = columns.keys.map { |name| Polars.col(name) }
        begins = profile.ne_missing(profile.shift(1)) | ((at - at.shift(1)) > gap)
        Polars.concat([none, *frames(generation)]).sort(%w[profile_id occurred_at]).filter(begins)
      end

      def frames(generation)
        types = generation.catalogue.event_types.keys
        types.map { |type| generation.events(type).select(%w[profile_id occurred_at]) }
      end
    end
  end
end
