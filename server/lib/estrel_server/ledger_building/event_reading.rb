# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Reads events from the store, types them, and sorts them into the pieces of a ledger, here or in a {PieceProcess},
    # to which it travels.
    class EventReading
      # Rows that are gathered before they go into files.
      GATHERED = 2_000_000
      # Events set aside of one type that are told one by one.
      SHOWN = 50
      SELECT = <<~SQL
        SELECT id, event_type_id, profile_id, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', occurred_at),
               TIMESTAMPDIFF(MICROSECOND, '1970-01-01', received_at), source_id, device, properties
        FROM events WHERE
      SQL
      COLUMNS = { "event_id" => Polars::Int64, "event_type_id" => Polars::Int64, "profile_id" => Polars::Int64,
                  "occurred_at" => Polars::Int64, "received_at" => Polars::Int64, "source_id" => Polars::Int32,
                  "device" => Polars::Int64, "properties" => Polars::String }.freeze
      private_constant :GATHERED, :SELECT, :COLUMNS

      # What has been read: `parts` of each piece, by number of the event type, data frames or, where there are several
      # pieces or processes, names of files; `personal`, by number of the event type as stored, the properties of which
      # values look personal; `set_aside`, by name of the event type, what could not be read: `event_type`, `count`,
      # first `rows`.
      Found = Struct.new(:parts, :personal, :set_aside)

      # @param type_map [TypeMap]
      # @param dump [Dump]
      # @param pieces [Array<Range<Integer>>] of profile ids
      # @param on_progress [Proc, nil]
      def initialize(type_map, dump, pieces, on_progress = nil)
        @type_map = type_map
        @dump = dump
        @pieces = pieces
        @on_progress = on_progress
      end

      # @return [Array]
      def marshal_dump = [@type_map, @pieces]

      # @return [void]
      def marshal_load(dumped)
        @type_map, @pieces = dumped
      end

      # Makes what has arrived in another process of use there.
      #
      # @param dump [Dump]
      # @return [self]
      def put_to(dump)
        @dump = dump
        @apart = true
        self
      end

      # @param ranges [Array<Array(Range, String)>] numbers of events, and a condition that has to hold besides
      # @return [Found]
      def read(ranges)
        found do
          each_frame(ranges) do |frame|
            @on_progress&.call("read #{frame.height} events")
            frame.partition_by("event_type_id").each { |part| take(part) }
          end
        end
      end

      # @param rows [Polars::DataFrame] of one type
      # @param type_id [Integer]
      # @return [Found] the same rows
      def sorted(rows, type_id) = found { hand_out(rows, type_id) }

      private

      # What the block takes and hands out.
      def found
        @found = Found.new(@pieces.map { {} }, {}, {})
        @gathered = 0
        yield
        put_into_files if into_files?
        @found
      end

      def into_files? = @apart || !@pieces.one?

      # Of each range the events as they stand in the store, their properties with them.
      def each_frame(ranges)
        packed = PackedProperties.new
        statements = ranges.map do |ids, condition|
          "#{SELECT}id BETWEEN #{ids.first} AND #{ids.last}#{condition}#{kept}"
        end
        content = ->(connection, index) { packed.content(connection, ranges[index].first) }
        @dump.each(statements, COLUMNS, nullable: %w[device properties], also: content) do |frame, blocks|
          yield packed.into(frame, blocks)
        end
      end

      # Older ones may still be there, see {Workers::EventRetention}.
      def kept
        from = Workspace.current.kept_from
        from ? " AND occurred_at >= '#{from.strftime("%F %T")}'" : ""
      end

      def take(part)
        stored_as = part["event_type_id"][0]
        type = types.fetch(stored_as)
        rows = readable(part, type) or return
        note_personal(rows, stored_as, type)
        hand_out(rows, type.id)
      end

      # By their numbers and those of what is read as them.
      def types
        @types ||= @type_map.types.flat_map { |type| @type_map.read_as.fetch(type.id).map { |id| [id, type] } }.to_h
      end

      def readable(part, type)
        salvage = Salvage.new
        salvage.read(part) { |rows| typed(rows, type) }.tap { note(type, salvage.set_aside) if salvage.set_aside.any? }
      end

      def typed(part, type)
        columns = NewEvents.columns(type).keys
        return part.select(columns) if type.properties.empty?

        part.hstack(PropertyColumns.new(type.properties.values).read(part["properties"])).select(columns)
      end

      def note(type, left)
        part = @found.set_aside[type.name] ||= { "event_type" => type.name, "count" => 0, "rows" => [] }
        part["count"] += left.size
        rows = left.first(SHOWN - [part["rows"].size, SHOWN].min)
        part["rows"].concat(rows.map { |row, reason| { "event_id" => row["event_id"][0], "reason" => reason } })
      end

      def note_personal(rows, stored_as, type)
        known = @found.personal[stored_as] ||= []
        texts = type.properties.values.select { |field| field.type == "text" }.map(&:name) - known
        return if texts.empty?

        looks = texts.map do |name|
          Polars.col(Estrel::Ledger::Layout.property(name)).str.contains(Access::PersonalData::CONTENT).any.alias(name)
        end
        found = rows.select(looks)
        known.concat(texts.select { |name| found[name][0] })
      end

      def hand_out(rows, type_id)
        @pieces.one? ? add(0, type_id, rows) : sort_out(rows.sort("profile_id"), type_id)
        @gathered += rows.height
        return if @gathered < GATHERED || !into_files?

        put_into_files
        GC.start # Ruby does not see the memory behind what has been written
      end

      def sort_out(sorted, type_id)
        @pieces.each_with_index do |range, piece|
          theirs = Estrel::Ledger::Rows.between(sorted, range)
          add(piece, type_id, theirs) unless theirs.height.zero?
        end
      end

      def add(piece, type_id, part) = (@found.parts[piece][type_id] ||= []) << part

      def put_into_files
        @found.parts.each do |parts|
          parts.transform_values! do |some|
            files, frames = some.partition { |part| part.is_a?(String) }
            frames.empty? ? files : [*files, in_file(Polars.concat(frames))]
          end
        end
        @gathered = 0
      end

      def in_file(rows)
        @dump.file.tap { |path| Estrel::OnePiece.of(rows).write_ipc(path, compression: "uncompressed") }
      end
    end
  end
end
