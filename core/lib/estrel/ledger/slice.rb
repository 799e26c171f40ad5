# frozen_string_literal: true

module Estrel
  class Ledger
    # The part of a ledger that belongs to a range of profiles: a stretch of rows of every file, so nothing is copied.
    # Its results are remembered together with those of the whole.
    class Slice < Part
      # @param whole [Generation, ReceivedBy]
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

      # @param whole [Readable]
      # @param range [Range<Integer>] of profile ids, its end included
      def initialize(whole, range)
        super(whole, whole.cache.within([:profiles, range]))
        @range = range
      end

      # The part's rows of a frame.
      #
      # @param frame [Polars::DataFrame] sorted by `profile_id`
      # @return [Polars::DataFrame]
      def cut(frame) = Rows.between(frame, @range)
    end
  end
end
