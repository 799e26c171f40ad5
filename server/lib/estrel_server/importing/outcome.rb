# frozen_string_literal: true

module EstrelServer
  module Importing
    # What became of a batch of rows: how many were stored and already known, and the rejects.
    class Outcome
      # A row not stored, with the reason.
      Refusal = Struct.new(:row, :reason, :conflict)

      # @return [Integer]
      attr_accessor :stored
      # @return [Integer]
      attr_accessor :already_known
      # @return [Array<Refusal>]
      attr_reader :refusals

      def initialize
        @stored = 0
        @already_known = 0
        @refusals = []
      end

      # @param row [Row]
      # @param reason [String]
      # @return [void]
      def conflict(row, reason) = @refusals << Refusal.new(row, reason, true)
    end
  end
end
