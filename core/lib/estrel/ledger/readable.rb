# frozen_string_literal: true

module Estrel
  class Ledger
    # What a whole generation, a part of it and an earlier knowledge of it have in common: all are read the same way.
    module Readable
      # Profiles in a part that is asked at once.
      PEOPLE = 25_000

      # @return [Timeline] one number for every profile and instant
      def timeline = cache.fetch([:timeline]) { Timeline.new(self) }

      # What the spine says about each event of a type.
      #
      # @param type [String] name of an event type in the catalogue
      # @param column [String] "visit_start", or "previous_at", the latest earlier instant at which the profile did
      #   anything ({Spine::NEVER} where there is none)
      # @return [Polars::Series] in the order of the type's events
      def beside(type, column)
        cache.fetch([:beside, type, column]) do
          marked = column == "previous_at" ? spine.select(["type"]).hstack([previous_instants]) : spine
          own = Polars.col("type") == catalogue.event_types.fetch(type).id
          marked.lazy.filter(own).select([column]).collect[column]
        end
      end

      # @return [Polars::Series] see {Spine.previous}
      def previous_instants = cache.fetch([:previous_instants]) { Spine.previous(spine) }

      # @return [Integer] how many profiles there are
      def base_size = profiles.height

      # @return [Date, nil] day of the newest event or attribute value
      def newest_day
        newest = facts["newest_occurred_at"]
        newest && calendar.day_of(newest)
      end

      # @return [Date, nil] day of the oldest event
      def oldest_day
        oldest = facts["oldest_occurred_at"]
        oldest && calendar.day_of(oldest)
      end

      # The ledger in parts small enough to be asked one after the other, within memory and with progress to tell.
      #
      # @param least [Integer] how many parts there are at least
      # @param people [Integer] how many people a part has at most
      # @return [Array<Readable>]
      def in_parts(least = 1, people: PEOPLE) = parts([least, parts_needed, ((base_size - 1) / people) + 1].max)

      # @param ids [Polars::Series] sorted profile ids
      # @return [Picked]
      def picked(ids) = Picked.new(self, ids)

      # @param range [Range<Integer>] of profile ids, its end included
      # @return [Slice]
      def slice(range) = Slice.new(self, range)
    end
  end
end
