# frozen_string_literal: true

module Estrel
  class Ledger
    # The part of a ledger that belongs to a range of profiles: a stretch of rows of every file, so nothing is copied.
    # Its results are remembered together with those of the whole.
    class Slice < Part
      # Places looked at for each slice to begin at: finding the events before one takes some looks into the spine.
      PLACES = 100
      private_constant :PLACES

      # Slices that take about as long to be asked: the share of the profiles plus that of the events is the same in
      # all, so that none has much more than twice its share of either.
      #
      # @param whole [Generation, Piece]
      # @param count [Integer]
      # @return [Array<Readable>] the whole itself where there is to be one; some may hold nobody
      def self.cut(whole, count)
        return [whole] if count == 1

        ids = whole.ids
        all = whole.range || Layout::EVERYBODY
        starts = starts(ids, whole.spine["profile_id"], count).drop(1)
        cuts = starts.map { |start| start < ids.len ? ids[start] : all.end + 1 }
        [all.begin, *cuts].zip([*cuts, all.end + 1]).map { |first, after| new(whole, first..(after - 1)) }
      end

      def self.starts(ids, events, count)
        step = [ids.len / (PLACES * count), 1].max
        before = events.search_sorted(ids.take_every(step).cast(events.dtype), side: "left").alias("events")
        people = Polars.col("place") * step
        shares = before.to_frame.with_row_index(name: "place").select(
          [((people / [ids.len, 1].max) + (Polars.col("events") / [events.len, 1].max)).alias("share")]
        )["share"]
        (0...count).map { |part| shares.search_sorted(2.0 * part / count, side: "left") * step }
      end
      private_class_method :starts

      # @param whole [Readable]
      # @param range [Range<Integer>] of profile ids, its end included
      def initialize(whole, range)
        super(whole, whole.cache.within([:profiles, range]))
        @range = range
      end

      # @return [Range<Integer>] of profile ids; those of all slices of a ledger leave no gap
      attr_reader :range

      # The part's rows of a frame.
      #
      # @param frame [Polars::DataFrame] sorted by `profile_id`
      # @return [Polars::DataFrame]
      def cut(frame) = Rows.between(frame, @range)
    end
  end
end
