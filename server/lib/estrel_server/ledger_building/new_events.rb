# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # The events that people have in a generation beyond those they had in the one before: what has come since, what
    # was others' who have become part of them, and all of a type whose columns no longer fit. They are read once,
    # typed, and handed out piece by piece; where there are several, they wait in files.
    class NewEvents
      CHUNK = 500_000
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
      private_constant :CHUNK, :SHOWN, :SELECT, :COLUMNS

      # @param type_map [TypeMap]
      # @param previous [Estrel::Ledger::Readable, nil]
      # @param changes [ProfileChanges] since then
      # @param dump [Dump]
      # @param ranges [Array<Range<Integer>>] of profile ids, see {Pieces}
      # @param on_progress [Proc, nil]
      def initialize(type_map, previous, changes, dump, ranges, on_progress)
        @type_map = type_map
        @previous = previous
        @changes = changes
        @dump = dump
        @ranges = ranges
        @on_progress = on_progress
        @personal = Hash.new { |hash, type| hash[type] = [] }
        @anew = type_map.types.reject { |type| fits?(type) }
        @set_aside = before_set_aside.except(*@anew.map(&:name))
        @parts = ranges.map { Hash.new { |hash, type| hash[type] = [] } }
      end

      # @return [Array<Estrel::Catalogue::EventType>]
      def types = @type_map.types

      # @param up_to [Integer] number of the last event to read
      # @return [void]
      def read(up_to)
        by_id = @type_map.types.flat_map { |type| @type_map.read_as.fetch(type.id).map { |id| [id, type] } }.to_h
        each_frame(ranges_of_events(up_to)) do |frame|
          @on_progress&.call("read #{frame.height} events")
          frame.partition_by("event_type_id").each do |part|
            type = by_id.fetch(part["event_type_id"][0])
            found = readable(part, type) or next
            note_personal(found, part["event_type_id"][0], type)
            hand_out(found, type)
          end
        end
        types.each { |type| hand_out_moved(type) unless anew?(type) }
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
        parts = @parts[piece].fetch(type.id) { return }
        Polars.concat(parts.map { |part| part.is_a?(String) ? Polars.read_ipc(part, memory_map: false) : part })
      end

      # Forgets those of a piece, which has been written.
      #
      # @param piece [Integer]
      # @return [void]
      def forget(piece)
        FileUtils.rm_f(@parts[piece].values.flatten.grep(String))
        @parts[piece].clear
      end

      # @return [Hash{Integer => Array<String>}] per event type, as stored, the properties of which new values look
      #   personal
      attr_reader :personal

      # @return [Array<Hash>] events that could not be read: per type `event_type`, `count`, and the first `rows`
      def set_aside = @set_aside.values

      # Forgets all.
      #
      # @return [void]
      def close = @parts.each_index { |piece| forget(piece) }

      # What goes to another process, where all of it waits in files.
      #
      # @return [Array]
      def marshal_dump = [@type_map, @anew, @parts.map { |parts| {}.merge(parts) }]

      # @return [void]
      def marshal_load(dumped)
        @type_map, @anew, @parts = dumped
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
        ((@previous && @previous.facts["set_aside"]) || []).to_h do |part|
          [part["event_type"], { **part, "rows" => part["rows"].dup }]
        end
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

      # Older ones may still be there, see {Workers::EventRetention}.
      def kept
        from = Workspace.current.kept_from
        from ? " AND occurred_at >= '#{from.strftime("%F %T")}'" : ""
      end

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

      def readable(part, type)
        salvage = Salvage.new
        salvage.read(part) { |rows| typed(rows, type) }.tap { note(type, salvage.set_aside) if salvage.set_aside.any? }
      end

      def note(type, left)
        part = @set_aside[type.name] ||= { "event_type" => type.name, "count" => 0, "rows" => [] }
        part["count"] += left.size
        rows = left.first(SHOWN - [part["rows"].size, SHOWN].min)
        part["rows"].concat(rows.map { |row, reason| { "event_id" => row["event_id"][0], "reason" => reason } })
      end

      def typed(part, type)
        columns = NewEvents.columns(type).keys
        return part.select(columns) if type.properties.empty?

        part.hstack(PropertyColumns.new(type.properties.values).read(part["properties"])).select(columns)
      end

      def note_personal(rows, stored_type, type)
        texts = type.properties.values.select { |field| field.type == "text" }.map(&:name) - @personal[stored_type]
        return if texts.empty?

        looks = texts.map do |name|
          Polars.col(Estrel::Ledger::Layout.property(name)).str.contains(Access::PersonalData::CONTENT).any.alias(name)
        end
        found = rows.select(looks)
        @personal[stored_type].concat(texts.select { |name| found[name][0] })
      end

      def hand_out(rows, type)
        return @parts.first[type.id] << rows if @ranges.one?

        profile = Polars.col("profile_id")
        @ranges.zip(@parts) do |range, parts|
          theirs = rows.filter((profile >= range.begin) & (profile <= range.end))
          parts[type.id] << in_file(theirs) unless theirs.height.zero?
        end
      end

      def hand_out_moved(type)
        return unless @previous&.catalogue&.event_types&.key?(type.name)

        rows = @changes.moved(@previous.events(type.name))
        return if rows.height.zero?

        columns = NewEvents.columns(type)
        missing = columns.except(*rows.columns).map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) }
        hand_out(rows.with_columns(missing).select(columns.keys), type)
      end

      def in_file(rows)
        @dump.file.tap { |path| rows.rechunk.write_ipc(path, compression: "uncompressed") }
      end
    end
  end
end
