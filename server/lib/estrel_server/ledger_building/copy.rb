# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Copies everybody, or a few people with their whole histories, from the store into the files of one generation, one
    # piece after the other.
    class Copy
      # Events of a piece from which on the memory that it took is worth being freed at once.
      LARGE = 1_000_000
      private_constant :LARGE

      # @return [Estrel::Catalogue]
      attr_reader :catalogue

      # @param known [Known]
      # @param writer [Estrel::Ledger::Writer]
      # @param dump [Dump]
      # @param ranges [Array<Range<Integer>>] of profile ids, see {Pieces}
      # @param beside [Estrel::Ledger::Generation, nil] of which this becomes the tail
      # @param processes [PieceProcesses, nil] that take part
      # @param on_progress [Proc, nil]
      def initialize(known, writer, dump:, ranges:, beside: nil, processes: nil, on_progress: nil)
        @writer = writer
        @dump = dump
        @ranges = ranges
        @beside = beside
        @ids = known.ids
        @processes = processes
        @type_map = TypeMap.new
        changes = ProfileChanges.new(known.all)
        reading = EventReading.new(@type_map, dump, ranges, on_progress)
        @new_events = NewEvents.new(@type_map, known.all, changes, reading)
        @pieces = PieceCopy.new(known, writer, dump, @type_map.catalogue, @new_events, changes,
                                beside: beside, on_progress: on_progress)
      end

      # @param marks [Hash{String => Integer}] of the store, see {Snapshot}
      # @return [void]
      def write(marks)
        @new_events.read(marks["events"], @processes)
        @written = write_pieces
        @events = @written.flat_map(&:events)
        @catalogue = counted(@events.group_by { |summary| summary.type.name })
        after = @beside ? @beside.facts.fetch("marks").fetch("events") : 0
        @writer.put_renamed(@pieces.origins.renamed(@dump, after: after))
        @writer.put_touched(@beside, @ids) if @beside
      ensure
        @new_events.close
      end

      # @return [Hash{Integer => Array<String>}] see {NewEvents#personal}
      def personal = @new_events.personal

      # @return [Array<String>] names of attributes of which some value looks personal
      def personal_attributes = @written.flat_map(&:personal).uniq

      # @return [Hash{String => Object}] of the whole ledger, see {Estrel::Ledger::Generation#facts}
      def facts
        names = %w[oldest_occurred_at oldest_received_at newest_received_at]
        oldest, oldest_received, received = @beside ? @beside.facts.values_at(*names) : []
        { "event_count" => @catalogue.event_types.values.sum(&:count),
          "oldest_occurred_at" => [oldest, *@events.map(&:oldest)].compact.min, "newest_occurred_at" => newest,
          "newest_received_at" => [received, *@events.map(&:received)].compact.max,
          "oldest_received_at" => [oldest_received, *@events.map(&:first_received)].compact.min,
          "read_as" => @type_map.read_as, "set_aside" => @new_events.set_aside, **@pieces.visits }
      end

      private

      # What no process has written is written here.
      def write_pieces
        found = @processes ? @processes.write(@pieces, @ranges) : {}
        @ranges.each_with_index.map do |range, piece|
          *noted, written = found[piece]
          written ? @writer.take_piece(*noted) : written = @pieces.write(range, piece)
          @new_events.forget(piece)
          # Ruby does not see the memory behind what has been written.
          GC.start if written.events.sum(&:count) > LARGE && piece < @ranges.size - 1
          written
        end
      end

      # @param summaries [Hash{String => Array<EventFiles::Summary>}] by name of the type
      def counted(summaries)
        @type_map.catalogue(summaries.map do |name, pieces|
          pieces.first.type.dup.tap { |type| type.count = count(name, pieces.sum(&:count)) }.freeze
        end)
      end

      def count(name, written)
        return written unless @beside

        outdated = Estrel::Ledger::Rows.count(@beside.events(name), @ids)
        @beside.catalogue.event_types.fetch(name).count - outdated + written
      end

      # What has always held is as old as can be, so it tells nothing of when it was heard.
      def newest
        count, known = @beside ? @beside.facts.values_at("event_count", "newest_occurred_at") : [0, nil]
        events = [*(known unless count.zero?), *@events.map(&:newest)].compact.max
        events || [known, *@written.map(&:newest_value)].compact.max.then { |value| value if value&.positive? }
      end
    end
  end
end
