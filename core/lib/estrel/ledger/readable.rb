# frozen_string_literal: true

module Estrel
  class Ledger
    # What a whole generation, a part of it and an earlier knowledge of it have in common: all are read the same way.
    module Readable
      # Profiles in a part that is asked at once.
      PEOPLE = 25_000
      # Events that each of them has at most, all together, so that what a part takes does not grow with the ledger.
      EVENTS = 100
      private_constant :EVENTS

      # @return [Range<Integer>, nil] of profile ids, of which it is a slice; nil for all
      def range = nil

      # @return [Timeline] one number for every profile and instant
      def timeline = cache.fetch([:timeline]) { Timeline.new(self) }

      # A type's events, and what the spine says about each.
      #
      # @param type [String] name of an event type in the catalogue
      # @param columns [Array<String>] some of those of {#beside}
      # @param first [Date, nil] events before this day are left out
      # @param only [Array<String>, nil] columns of {Generation#events} that are wanted, `day` among them; nil for all
      # @return [Polars::DataFrame] these columns, and those
      def events_beside(type, columns, first = nil, only: nil)
        events = events(type)
        events = events.select(only) if only
        events = events.filter(Polars.col("day") >= Calendar.number(first)) if first
        columns.empty? ? events : events.with_columns(columns.map { |column| beside(type, column, first) })
      end

      # What the spine, or the history of an attribute, says about each event of a type.
      #
      # @param type [String] name of an event type in the catalogue
      # @param column [String] "visit_start", "received_day", or "previous_at", the latest earlier instant at which the
      #   profile did anything ({Spine::NEVER} where there is none); or one of {Layout.standing} or of {SoFar}
      # @param first [Date, nil] events before this day are left out, and need not be known
      # @return [Polars::Series] in the order of the type's events
      def beside(type, column, first = nil)
        cache.fetch([:beside, type, column, first]) do
          attribute = Layout.standing_of(column)
          next standing(type, attribute, first).alias(column) if attribute

          wanted = Polars.col("type") == catalogue.event_types.fetch(type).id
          wanted &= Polars.col("day") >= Calendar.number(first) if first
          with_told(column, first).lazy.filter(wanted).select([column]).collect[column]
        end
      end

      # A type's events for going over them once, in no order.
      #
      # @param type [String] name of an event type in the catalogue
      # @return [Polars::LazyFrame] see {Generation#events}
      def scan(type) = events(type).lazy

      # @param type [String] name of an event type in the catalogue
      # @return [Integer] how many people ever had such events
      def people_of(type)
        cache.fetch([:people_of, type]) do
          profile = Polars.col("profile_id") # rows are sorted by it
          events(type).select([(profile != profile.shift(1)).fill_null(true).sum.alias("people")]).item || 0
        end
      end

      # @return [Array(Integer, Integer), nil] instants of the oldest and the newest event; nil where there is none
      def bounds
        at = Polars.col("occurred_at")
        found = catalogue.event_types.each_key.flat_map do |type|
          events(type).select([at.min.alias("first"), at.max.alias("last")]).row(0).compact
        end
        found.minmax if found.any?
      end

      # @return [Polars::Series] profile ids, sorted
      def ids = profiles["profile_id"]

      # @return [Integer] how many profiles there are
      def base_size = ids.len

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

      # @return [Array<Readable>] those who lie in files of their own, by profile id
      def pieces = [self]

      # The ledger in parts small enough to be asked one after the other, within memory and with progress to tell.
      #
      # @param least [Integer] how many parts there are at least
      # @param people [Integer] how many people a part has at most
      # @return [Array<Readable>]
      def in_parts(least = 1, people: PEOPLE) = parts(part_count(least, people))

      # @return [Integer] in how many parts {#in_parts} gives it, as many of each piece
      def part_count(least, people)
        by_events = facts.fetch("event_count", 0).fdiv(people * EVENTS).ceil
        needed = [least, parts_needed, ((base_size - 1) / people) + 1, by_events].max
        needed.fdiv(pieces.size).ceil * pieces.size
      end

      # The ledger in parts, for taking one after the other.
      #
      # @param count [Integer] see {#part_count}
      # @return [Array<Readable>] the ledger itself where one part is asked for
      def parts(count) = Array.new(count) { |index| part(count, index) }

      # @param ids [Polars::Series] sorted profile ids
      # @return [Picked]
      def picked(ids) = Picked.new(self, ids)

      # @param range [Range<Integer>] of profile ids, its end included
      # @return [Readable]
      def slice(range)
        piece = pieces.find { |one| one.range&.cover?(range) } || self
        piece.range == range ? piece : Slice.new(piece, range)
      end

      private

      def standing(type, attribute, first)
        rows = timeline.events(type, first, only: %w[profile_id occurred_at day])
        timeline.standing(rows, AttributeValues.new(self).history(attribute))
      end

      # The spine, or its newest days, with a column that tells something of each row.
      def with_told(column, first)
        if SoFar.column?(column)
          told = cache.fetch([:so_far, column]) { SoFar.of(self, column).alias(column) }
          return spine.select(%w[day type]).hstack([told])
        end

        rows = spine_since(first)
        column == "previous_at" ? rows.select(%w[day type]).hstack([previous_instants(first)]) : rows
      end

      # The spine, or its newest days, where these hold less than half of all.
      def spine_since(first)
        return spine unless first && few_since?(first)

        cache.fetch([:spine_since, first]) { spine.filter(Polars.col("day") >= Calendar.number(first)) }
      end

      def few_since?(first)
        cache.fetch([:few_since, first]) do
          2 * spine.select([(Polars.col("day") >= Calendar.number(first)).sum])["day"][0] < spine.height
        end
      end

      def previous_instants(first)
        cache.fetch([:previous_instants, first]) { Spine.previous(spine_since(first)) }
      end
    end
  end
end
