# frozen_string_literal: true

module EstrelServer
  module Importing
    # What became of a batch of rows: how many were stored, the rows already known, and the rejects.
    class Outcome
      # A row not stored, with the reason, which becomes a whole sentence.
      Refusal = Struct.new(:row, :reason, :conflict) do
        def initialize(row, reason, conflict) = super(row, Estrel::English.sentence(reason), conflict)
      end

      # @return [Integer]
      attr_accessor :stored
      # @return [Array<Row>]
      attr_reader :known
      # @return [Array<Refusal>]
      attr_reader :refusals

      def initialize
        @stored = 0
        @known = []
        @refusals = []
      end

      # @return [Integer]
      def already_known = @known.size

      # @param row [Row]
      # @param reason [String]
      # @return [void]
      def conflict(row, reason) = @refusals << Refusal.new(row, reason, true)

      # @param row [Row]
      # @param reason [String]
      # @return [void]
      def refuse(row, reason) = @refusals << Refusal.new(row, reason, false)
    end
  end
end
