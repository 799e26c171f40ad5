# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Copies the people of one piece after the other from the store into files of the ledger, here or in a
    # {PieceProcess}, to which it travels.
    class PieceCopy
      # What comes of a piece, beside its files: what its event types amount to, the newest instant of an attribute's
      # value, and names of attributes of which some value looks personal.
      Written = Struct.new(:events, :newest_value, :personal)

      # @param previous [Estrel::Ledger::Readable, nil] what is known already
      # @param writer [Estrel::Ledger::Writer]
      # @param dump [Dump]
      # @param known [Estrel::Catalogue] not counted yet
      # @param new_events [NewEvents]
      # @param changes [ProfileChanges]
      # @param beside [Estrel::Ledger::Generation, nil] of which this becomes the tail
      # @param on_progress [Proc, nil]
      def initialize(previous, writer, dump, known, new_events, changes, beside: nil, on_progress: nil)
        @previous = previous
        @writer = writer
        @dump = dump
        @known = known
        @new_events = new_events
        @beside = beside
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
        events = files.write(writer, piece, range)
        history = History.new(@known, dump).read
        writer.put_attribute_history(history)
        writer.put_profiles(profiles(dump, history, events))
        writer.put_reach(Reach.new(dump).read)
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
      def marshal_dump = [@previous&.manifest_name, @writer, @known, @new_events, @changes]

      # @return [void]
      def marshal_load(dumped)
        @previous_name, @writer, @known, @new_events, @changes = dumped
      end

      # Makes what has arrived in another process of use there.
      #
      # @param ledger [Estrel::Ledger]
      # @param dump [Dump]
      # @return [self]
      def put_to(ledger, dump)
        @previous = ledger.referred([@previous_name, []]) if @previous_name
        @dump = dump
        @origins = Origins.new(Workspace.current.calendar)
        self
      end

      protected

      attr_writer :new_events

      private

      def files = @files ||= EventFiles.new(@new_events.types, @previous, @changes, @new_events, @on_progress)

      def personal(history)
        looks = Polars.col("value").str.contains(Access::PersonalData::CONTENT)
        history.filter(looks)["attribute"].unique.to_a
      end

      def profiles(dump, history, events)
        found = Profiles.new(@known, dump).build(history, events.map(&:firsts))
        return found unless @beside

        # One of a kind that nobody had has no place.
        columns = @beside.profiles.schema.except("first_seen_day")
        throw :no_place if (found.columns - columns.keys).any?
        missing = columns.except(*found.columns).map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) }
        found.with_columns(missing).select(columns.keys)
      end
    end
  end
end
