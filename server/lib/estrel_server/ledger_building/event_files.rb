# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Writes the ledger's event files: adds what came since the previous generation, lets the events of merged profiles
    # follow them, drops those of erased ones, and reads a type anew from the store when its columns no longer fit.
    class EventFiles
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

      # What a written type amounts to; `firsts` has the first occurrence per profile.
      Summary = Struct.new(:type, :count, :oldest, :newest, :received, :first_received, :firsts)

      # @param type_map [TypeMap]
      # @param previous [Estrel::Ledger::Generation, nil]
      # @param changes [ProfileChanges] since the previous generation
      # @param dump [Dump]
      # @param on_progress [Proc, nil]
      def initialize(type_map, previous, changes, dump, on_progress)
        @type_map = type_map
        @types = type_map.types
        @previous = previous
        @changes = changes
        @dump = dump
        @on_progress = on_progress
        @personal = Hash.new { |hash, type| hash[type] = [] }
        @frames = {}
        @touched = changes.ids
      end

      # @param writer [Estrel::Ledger::Writer]
      # @param after [Integer] events up to this id are in the previous generation
      # @param up_to [Integer] the last id to read
      # @return [Array<Summary>]
      def write(writer, after, up_to)
        anew = @types.reject { |type| fits?(type) }
        @set_aside = before_set_aside.except(*anew.map(&:name))
        parts = read(ranges(after, up_to, anew))
        same_days = @previous&.calendar&.time_zone == writer.time_zone
        @types.each do |type|
          old = anew.include?(type) ? nil : previous_events(type)
          @frames[type] = frame(type, old, fresh(parts.delete(type.id), writer), writer, same_days)
        end
        put_spine(writer, whole: anew.any? || !same_days)
        @frames.map { |type, frame| summary(type, frame) }
      end

      # @return [Hash{Integer => Array<String>}] per event type, as stored, the properties of which new values look
      #   personal
      attr_reader :personal

      # @return [Hash{String => Object}] for the generation's facts: how visits were told apart
      attr_reader :visits

      # @return [Array<Hash>] events that could not be read: per type `event_type`, `count`, and the first `rows`
      def set_aside = @set_aside.values

      private

      def before_set_aside
        ((@previous && @previous.facts["set_aside"]) || []).to_h do |part|
          [part["event_type"], { **part, "rows" => part["rows"].dup }]
        end
      end

      # @return [Array<Array(Range, String)>] ids, and a condition that has to hold besides
      def ranges(after, up_to, anew)
        return steps(0, up_to) if @previous.nil?

        ids = anew.flat_map { |type| @type_map.read_as.fetch(type.id) }.join(",")
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

      # @return [Hash{Integer => Array<Polars::DataFrame>}] by event type of the ledger
      def read(ranges)
        by_id = @types.flat_map { |type| @type_map.read_as.fetch(type.id).map { |id| [id, type] } }.to_h
        parts = Hash.new { |hash, id| hash[id] = [] }
        each_frame(ranges) do |frame|
          @on_progress&.call("read #{frame.height} events")
          frame.partition_by("event_type_id").each do |part|
            type = by_id.fetch(part["event_type_id"][0])
            found = readable(part, type) or next
            note_personal(found, part["event_type_id"][0], type)
            parts[type.id] << found
          end
        end
        parts
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

      def note_personal(rows, stored_type, type)
        texts = type.properties.values.select { |field| field.type == "text" }.map(&:name) - @personal[stored_type]
        return if texts.empty?

        looks = texts.map { |name| Polars.col(Estrel::Ledger::Layout.property(name)).str.contains(Access::PersonalData::CONTENT).any.alias(name) }
        found = rows.select(looks)
        @personal[stored_type].concat(texts.select { |name| found[name][0] })
      end

      def note(type, left)
        part = @set_aside[type.name] ||= { "event_type" => type.name, "count" => 0, "rows" => [] }
        part["count"] += left.size
        rows = left.first(SHOWN - [part["rows"].size, SHOWN].min)
        part["rows"].concat(rows.map { |row, reason| { "event_id" => row["event_id"][0], "reason" => reason } })
      end

      def typed(part, type)
        return part.select(columns(type).keys) if type.properties.empty?

        part.hstack(PropertyColumns.new(type.properties.values).read(part["properties"])).select(columns(type).keys)
      end

      # What came since, and whose it is.
      def fresh(parts, writer)
        return unless parts&.any?

        rows = writer.with_days(Polars.concat(parts))
        @touched |= rows["profile_id"].unique.to_a if @previous
        rows
      end

      # The type's events of the new generation, written where they differ from the previous one's.
      def frame(type, old, fresh, writer, same_days)
        old, moved = old ? @changes.applied_to(old) : [nil, nil]
        old = conform(old, type, writer, same_days) if old
        fresh = [fresh, moved && conform(moved, type, writer, same_days)].compact.reject { |rows| rows.height.zero? }
        kept = writer.carries?("events/#{type.id}")
        return old if kept && old && fresh.empty? && old.equal?(previous_events(type))

        rows = fresh.any? ? Polars.concat(fresh.map { |part| part.select(columns(type, "day").keys) }) : nil
        joined = Estrel::Ledger::Splice.insert(old || empty(type), rows || empty(type))
        @on_progress&.call("writing #{type.name}: #{joined.height} events")
        writer.put_sorted_events(type.id, joined)
      end

      # The spine follows the type files: a few profiles are put in order anew, or all where anything else has changed.
      def put_spine(writer, whole:)
        gap = Workspace.current.visit_gap
        system = Estrel::Ledger::Spine.system_types(@frames.keys)
        whole ||= @previous.facts.values_at("visit_gap", "system_types") != [gap, system] || types_gone?
        @on_progress&.call("putting all events in order") if whole
        spine = if whole then Estrel::Ledger::Spine.of(@frames, writer.calendar, gap)
                else Estrel::Ledger::Spine.renewed(@previous.spine, @frames, @touched, writer.calendar, gap)
                end
        @visits = { "visit_gap" => gap, "system_types" => system }
        writer.put_spine(spine) unless writer.carries?("spine") && spine.equal?(@previous.spine)
      end

      def types_gone?
        before, now = [@previous.catalogue.event_types.values, @frames.keys].map { |types| types.map(&:id) }
        (before - now).any?
      end

      def empty(type)
        columns = columns(type, "day")
        Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
      end

      def previous_events(type)
        @previous.events(type.name) if @previous&.catalogue&.event_types&.key?(type.name)
      end

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

      # @param more [Array<String>] further columns wanted
      def columns(type, *more)
        properties = type.properties.values.to_h do |field|
          [Estrel::Ledger::Layout.property(field.name), Estrel::Ledger::Layout::DTYPES.fetch(field.type)]
        end
        own = Estrel::Ledger::Layout::EVENT_COLUMNS
        own.except("day").merge(own.slice(*more)).merge(properties)
      end

      # An older frame as it would be written today: properties first seen since are null, days are those of the zone.
      def conform(frame, type, writer, same_days)
        wanted = columns(type, "day")
        missing = wanted.except(*frame.columns)
        return frame if missing.empty? && same_days && frame.columns == wanted.keys

        frame = writer.with_days(frame.drop("day")) unless same_days
        frame.with_columns(missing.map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) }).select(wanted.keys)
      end

      # Rows are sorted by profile and time, so a profile's first row is its first event.
      def summary(type, frame)
        profile = Polars.col("profile_id")
        firsts = frame.lazy.filter(profile.ne_missing(profile.shift(1)))
                      .select([profile, Polars.col("occurred_at").alias("first_seen_at")]).collect
        Summary.new(type, frame.height, frame["occurred_at"].min, frame["occurred_at"].max, frame["received_at"].max,
                    frame["received_at"].min, firsts)
      end
    end
  end
end
