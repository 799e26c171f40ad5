# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # What a ledger says already of those who are written: of everybody, or of the few who come into a tail. It travels
    # to a {PieceProcess}, which has the ledger too.
    class Known
      # @return [Polars::Series, nil] sorted profile ids of those few
      attr_reader :ids

      # @param ledger [Estrel::Ledger::Readable, nil]
      # @param ids [Polars::Series, nil]
      def initialize(ledger, ids = nil)
        @ledger = ledger
        @ids = ids
      end

      # @return [Estrel::Ledger::Readable, nil]
      def all = @all ||= few(@ledger, @ids)

      # @param range [Range<Integer>] of profile ids
      # @return [Estrel::Ledger::Readable, nil] of those in it
      def within(range)
        range == Estrel::Ledger::Layout::EVERYBODY ? all : few(@ledger&.slice(range), Known.ids_within(@ids, range))
      end

      # @param ids [Polars::Series, nil] sorted
      # @param range [Range<Integer>]
      # @return [Polars::Series, nil] those in it
      def self.ids_within(ids, range) = ids&.filter((ids >= range.begin) & (ids <= range.end))

      # @return [Array]
      def marshal_dump = [@ledger&.reference, @ids]

      # @return [void]
      def marshal_load(dumped)
        @reference, @ids = dumped
      end

      # Makes what has arrived in another process of use there.
      #
      # @param ledger [Estrel::Ledger]
      # @return [self]
      # @raise [Estrel::Ledger::Missing] where it is not there
      def find(ledger)
        @ledger = ledger.referred(@reference) if @reference
        self
      end

      private

      def few(ledger, ids) = ledger && ids ? ledger.picked(ids) : ledger
    end
  end
end
