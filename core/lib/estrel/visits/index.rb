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
        @starts = starts(generation, gap)
      end

      # @param rows [Polars::DataFrame] with `profile_id` and `occurred_at`, sorted by both
      # @return [Polars::DataFrame] the same with `visit`: the instant at which the event's visit started
      def marked(rows)
        rows.join_asof(@starts, on: "occurred_at", by: "profile_id", strategy: "backward")
      end

      private

      def starts(generation, gap)
        frames = generation.catalogue.event_types.each_key.map do |type|
          generation.events(type).select(%w[profile_id occurred_at])
        end
        return empty if frames.empty?

        profile, at = %w[profile_id occurred_at].map { |name| Polars.col(name) }
        begins = profile.ne_missing(profile.shift(1)) | ((at - at.shift(1)) > gap)
        Polars.concat(frames).sort(%w[profile_id occurred_at]).filter(begins).with_columns([at.alias("visit")])
      end

      def empty
        columns = { "profile_id" => Polars::Int64, "occurred_at" => Polars::Int64, "visit" => Polars::Int64 }
        Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
      end
    end
  end
end
