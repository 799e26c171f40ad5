# frozen_string_literal: true

module Estrel
  class Ledger
    # Which pieces of a ledger a machine has: those of some numbers, counted around. A ledger in one piece is had whole.
    class Held
      # @param numbers [Array<Integer>, nil] nil for all
      # @param count [Integer] up to which is counted
      def initialize(numbers, count = 1)
        @numbers = numbers
        @count = count
      end

      # @param index [Integer] of a piece
      # @param pieces [Integer] how many there are
      # @return [Boolean]
      def piece?(index, pieces) = @numbers.nil? || pieces == 1 || @numbers.include?(index % @count)

      ALL = new(nil).freeze
    end
  end
end
