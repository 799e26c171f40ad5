# frozen_string_literal: true

module Estrel
  class Ledger
    # What a whole generation, a part of it and an earlier knowledge of it have in common: all are read the same way.
    module Readable
      # @return [Timeline] one number for every profile and instant
      def timeline = cache.fetch([:timeline]) { Timeline.new(self) }

      # @return [Integer] how many profiles there are
      def base_size = profiles.height

      # @param ids [Polars::Series] sorted profile ids
      # @return [Picked]
      def picked(ids) = Picked.new(self, ids)

      # @param range [Range<Integer>] of profile ids, its end included
      # @return [Slice]
      def slice(range) = Slice.new(self, range)
    end
  end
end
