# frozen_string_literal: true

require "forwardable"

module Estrel
  class Ledger
    # The people of a stretch of profile ids, who lie in files of their own: read without those of anybody else, which
    # need not be there.
    class Piece
      extend Forwardable
      include Readable
      include Frames

      def_delegators :@whole, :catalogue, :calendar, :facts, :renamed, :visit_gap, :directory

      # @return [Range<Integer>] of profile ids; those of all pieces of a ledger leave no gap
      attr_reader :range
      # @return [Integer] how many profiles there are
      attr_reader :base_size
      # @return [ResultCache::Scope] its results are remembered together with those of the whole
      attr_reader :cache

      # @param whole [Generation]
      # @param index [Integer]
      # @param noted [Manifest::Piece]
      def initialize(whole, index, noted)
        @whole = whole
        @index = index
        @range = noted.range
        @base_size = noted.people
        @cache = whole.cache.within([:profiles, range])
      end

      # What a cache takes it to weigh, see {Part#estimated_size}.
      #
      # @return [Integer] bytes
      def estimated_size = base_size * 500

      private

      def frame(name) = @whole.of_piece(@index, name)
    end
  end
end
