# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # The events that people have in a generation beyond those they had in the one before: what has come since, what
    # was others' who have become part of them, and all of a type whose columns no longer fit. They are read once, and
    # handed out piece by piece.
    class NewEvents
      CHUNK = 500_000
      # Chunks that a process reads at a time.
      AT_ONCE = 4
      private_constant :CHUNK, :AT_ONCE

      # @param type_map [TypeMap]
      # @param previous [Estrel::Ledger::Readable, nil]
      # @param changes [ProfileChanges] since then
      # @param reading [EventReading]
      def initialize(type_map, previous, changes, reading)
        @type_map = type_map
        @previous = previous
        @changes = changes
        @reading = reading
        @anew = type_map.types.reject { |type| fits?(type) }
        @found = []
      end

      # @return [Array<Estrel::Catalogue::EventType>]
      def types = @type_map.types

      # @param up_to [Integer] number of the last event to read
      # @param processes [PieceProcesses, nil] that read, too
      # @return [void]
      def read(up_to, processes = nil)
        left = ranges_of_events(up_to).each_slice(AT_ONCE).to_a
        found = processes ? processes.read(@reading, left) : {}
        left = left.each_with_index.reject { |_, index| found.key?(index) }.flat_map(&:first)
        @found = [*found.sort_by(&:first).map(&:last), @reading.read(left)]
        types.each { |type| read_moved(type) unless anew?(type) }
      end

      # @param type [Estrel::Catalogue::EventType]
      # @return [Boolean] whether all of its events are among the new ones
      def anew?(type) = @anew.include?(type)

      # @return [Boolean]
      def any_anew? = @anew.any?

      # @param piece [Integer]
      # @param type [Estrel::Catalogue::EventType]
      # @return [Polars::DataFrame, nil] without `day`
      def of(piece, type)
        parts = @found.flat_map { |found| found.parts[piece].fetch(type.id, []) }
        return if parts.empty?

        Polars.concat(parts.map { |part| part.is_a?(String) ? Polars.read_ipc(part, memory_map: false) : part })
      end

      # Forgets those of a piece, which has been written.
      #
      # @param piece [Integer]
      # @return [void]
      def forget(piece)
        @found.each do |found|
          FileUtils.rm_f(found.parts[piece].values.flatten.grep(String))
          found.parts[piece].clear
        end
      end

      # Forgets all.
      #
      # @return [void]
      def close = @found.first&.parts&.each_index { |piece| forget(piece) }

      # @return [Hash{Integer => Array<String>}] see {EventReading::Found}
      def personal = @found.map(&:personal).reduce({}) { |all, found| all.merge(found) { |_, one, other| one | other } }

      # @return [Array<Hash>] events that could not be read, see {EventReading::Found}
      def set_aside
        @found.map(&:set_aside).reduce(before_set_aside) do |all, found|
          all.merge(found) { |_, before, more| set_aside_together(before, more) }
        end.values
      end

      # Those of a piece without the files they wait in, for another machine.
      #
      # @param piece [Integer]
      # @return [NewEvents]
      def only(piece)
        parts = types.to_h { |type| [type.id, [of(piece, type)].compact] }
        dup.tap { |some| some.found = [EventReading::Found.new({ piece => parts }, {}, {})] }
      end

      # What goes to another process: of events the names of the files they wait in, unless it is {#only} some.
      #
      # @return [Array]
      def marshal_dump = [@type_map, @anew, @found]

      # @return [void]
      def marshal_load(dumped)
        @type_map, @anew, @found = dumped
      end

      # @param type [Estrel::Catalogue::EventType]
      # @param more [Array<String>] further columns wanted
      # @return [Hash{String => Class}] columns of its events
      def self.columns(type, *more)
        properties = type.properties.values.to_h do |field|
          [Estrel::Ledger::Layout.property(field.name), Estrel::Ledger::Layout::DTYPES.fetch(field.type)]
        end
        own = Estrel::Ledger::Layout::EVENT_COLUMNS
        own.except("day").merge(own.slice(*more)).merge(properties)
      end

      protected

      attr_writer :found

      private

      # Whether the previous generation's file of a type can be built on.
      def fits?(type)
        return true unless @previous

        stored = @type_map.read_as.fetch(type.id)
        before = @previous.catalogue.event_types[type.name]
        read_as = @previous.facts["read_as"]
        return !read_as.values.flatten.intersect?(stored) unless before

        before.id == type.id && read_as[type.id.to_s] == stored &&
          before.properties.all? { |name, field| type.properties[name].to_h == field.to_h }
      end

      def before_set_aside
        before = (@previous && @previous.facts["set_aside"]) || []
        before.to_h { |part| [part["event_type"], part] }.except(*@anew.map(&:name))
      end

      def set_aside_together(before, more)
        { **before, "count" => before["count"] + more["count"],
                    "rows" => (before["rows"] + more["rows"]).first(EventReading::SHOWN) }
      end

      # @return [Array<Array(Range, String)>] numbers of events, and a condition that has to hold besides
      def ranges_of_events(up_to)
        return steps(0, up_to) if @previous.nil?

        after = @previous.facts.fetch("marks").fetch("events")
        ids = @anew.flat_map { |type| @type_map.read_as.fetch(type.id) }.join(",")
        return steps(after, up_to) if ids.empty?

        steps(after, up_to, " AND event_type_id NOT IN (#{ids})") + steps(0, up_to, " AND event_type_id IN (#{ids})")
      end

      def steps(after, up_to, condition = "")
        (after...up_to).step(CHUNK).map { |from| [(from + 1)..[from + CHUNK, up_to].min, condition] }
      end

      # What was others' is read from where it lies in the previous generation.
      def read_moved(type)
        return unless @previous&.catalogue&.event_types&.key?(type.name)

        rows = @changes.moved(@previous.events(type.name))
        return if rows.height.zero?

        columns = NewEvents.columns(type)
        missing = columns.except(*rows.columns).map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) }
        @found << @reading.sorted(rows.with_columns(missing).select(columns.keys), type.id)
      end
    end
  end
end
