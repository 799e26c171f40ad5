# frozen_string_literal: true

module Estrel
  class Ledger
    # The part of a ledger that belongs to a range of profiles, read as if it were a ledger of its own.
    #
    # Every file is sorted by profile, so a part is a stretch of rows and nothing is copied. Whatever is computed per
    # profile can be computed part by part and added up. Results are kept in a cache of the part's own.
    class Slice
      include Readable

      # @return [ResultCache]
      attr_reader :cache

      # @param whole [Generation, KnownOn]
      # @param count [Integer]
      # @return [Array<Slice>] with about as many profiles each; some may hold none
      def self.cut(whole, count)
        ids = whole.profiles["profile_id"]
        starts = (0...count).map { |part| (ids.len * part) / count }
        starts.each_with_index.map do |start, part|
          after = starts[part + 1] || ids.len
          new(whole, start < after ? ids[start]..ids[after - 1] : 0..-1)
        end
      end

      # @param whole [Generation, KnownOn]
      # @param range [Range<Integer>] of profile ids, its end included
      def initialize(whole, range)
        @whole = whole
        @range = range
        @frames = {}
        @cache = ResultCache.new
      end

      # @return [Catalogue]
      def catalogue = @whole.catalogue

      # @return [Calendar]
      def calendar = @whole.calendar

      # @return [Polars::DataFrame] see {Generation#profiles}
      def profiles = part(:profiles) { @whole.profiles }

      # @return [Polars::DataFrame] see {Generation#attribute_history}
      def attribute_history = part(:attribute_history) { @whole.attribute_history }

      # @return [Polars::DataFrame] see {Generation#reach}
      def reach = part(:reach) { @whole.reach }

      # @return [Polars::DataFrame] see {Generation#events}
      def events(type) = part([:events, type]) { @whole.events(type) }

      # @return [Polars::DataFrame] see {Generation#days}
      def days(type)
        part([:days, type], "key", @range.begin * Layout::KEY_STEP, (@range.end + 1) * Layout::KEY_STEP) do
          @whole.days(type)
        end
      end

      # @return [Polars::Series, nil] see {Generation#current_attribute}
      def current_attribute(name)
        values = @whole.current_attribute(name) or return
        values.to_frame.slice(*stretch(@whole.profiles, "profile_id", @range.begin, @range.end + 1)).to_series
      end

      private

      def part(name, column = "profile_id", from = @range.begin, after = @range.end + 1)
        @frames[name] ||= yield.then { |frame| frame.slice(*stretch(frame, column, from, after)) }
      end

      # Where the values from one up to another, itself left out, lie in a sorted column: first row and number of rows.
      def stretch(frame, column, from, after)
        bounds = frame.select([Polars.col(column).search_sorted(Polars.lit([from, after]), side: "left").alias("at")])
        first, last = bounds["at"].to_a
        [first, [last - first, 0].max]
      end
    end
  end
end
