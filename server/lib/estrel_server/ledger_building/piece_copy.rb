# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Copies the people of one piece after the other from the store into files of the ledger, here or in a
    # {PieceProcess}, to which it travels.
    class PieceCopy
      # What comes of a piece, beside its files: what its event types amount to, the newest instant of an attribute's
      # value, and names of attributes of which some value looks personal.
      Written = Struct.new(:events, :newest_value, :personal)

      # @param known [Known]
      # @param writer [Estrel::Ledger::Writer]
      # @param dump [Dump] of those who are written
      # @param catalogue [Estrel::Catalogue] not counted yet
      # @param new_events [NewEvents]
      # @param changes [ProfileChanges]
      # @param beside [Estrel::Ledger::Generation, nil] of which this becomes the tail
      # @param on_progress [Proc, nil]
      def initialize(known, writer, dump, catalogue, new_events, changes, beside: nil, on_progress: nil)
        @known = known
        @writer = writer
        @dump = dump
        @catalogue = catalogue
        @new_events = new_events
        @columns = beside && beside.profiles.schema.except("first_seen_day")
        @on_progress = on_progress
        @changes = changes
        @origins = Origins.new(Workspace.current.calendar)
      end

      # @return [Estrel::Ledger::Writer]
      attr_reader :writer
      # @return [Origins]
      attr_reader :origins

      # @param range [Range<Integer>] of profile ids
      # @param piece [Integer] its index
      # @return [Written]
      def write(range, piece)
        dump = range == Estrel::Ledger::Layout::EVERYBODY ? @dump : @dump.within(range)
        writer.begin_piece(range, piece)
        events = files.write(writer, piece, @known.within(range))
        history = History.new(@catalogue, dump).read
        writer.put_attribute_history(history)
        reach = Reach.new(dump).read
        writer.put_profiles(profiles(dump, history, reach, events))
        writer.put_reach(reach)
        writer.put_origins(origins.moved(dump))
        events.each { |summary| summary.firsts = nil }
        Written.new(events, history["occurred_at"].max, personal(history))
      end

      # @return [Hash{String => Object}] see {EventFiles#visits}
      def visits = files.visits

      # @param piece [Integer]
      # @return [PieceCopy] the same with nothing but what that piece needs, for another machine
      def with_events_of(piece) = dup.tap { |copy| copy.new_events = @new_events.only(piece) }

      # @return [Array]
      def marshal_dump = [@known, @writer, @catalogue, @new_events, @columns, @changes]

      # @return [void]
      def marshal_load(dumped)
        @known, @writer, @catalogue, @new_events, @columns, @changes = dumped
      end

      # Makes what has arrived in another process of use there.
      #
      # @param ledger [Estrel::Ledger]
      # @param settings [Settings]
      # @return [self]
      # @raise [Estrel::Ledger::Missing] where what is known already is not there
      def put_to(ledger, settings)
        @known.find(ledger)
        @dump = Dump.new(settings, @known.ids)
        @origins = Origins.new(Workspace.current.calendar)
        self
      end

      protected

      attr_writer :new_events

      private

      def files = @files ||= EventFiles.new(@new_events.types, @changes, @new_events, @on_progress)

      def personal(history)
        looks = Polars.col("value").str.contains(Access::PersonalData::CONTENT)
        history.filter(looks)["attribute"].unique.to_a
      end

      def profiles(dump, history, reach, events)
        found = Profiles.new(@catalogue, dump).build(history, reach, events.map(&:firsts))
        return found unless @columns

        # One of a kind that nobody had has no place.
        throw :no_place if (found.columns - @columns.keys).any?
        missing = @columns.except(*found.columns).map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) }
        found.with_columns(missing).select(@columns.keys)
      end
    end
  end
end
