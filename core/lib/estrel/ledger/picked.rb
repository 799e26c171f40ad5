# frozen_string_literal: true

module Estrel
  class Ledger
    # The part of a ledger that belongs to some profiles, read as if it were a ledger of its own: what is costly to ask
    # of everybody is cheap to ask of a few.
    class Picked < Part
      # @param whole [Readable]
      # @param ids [Polars::Series] sorted profile ids of the whole
      def initialize(whole, ids)
        super(whole)
        @ids = ids.rechunk
      end

      # The part's rows of a frame.
      #
      # @param frame [Polars::DataFrame] sorted by `profile_id`
      # @return [Polars::DataFrame]
      def cut(frame) = Rows.of(frame, @ids)
    end
  end
end
