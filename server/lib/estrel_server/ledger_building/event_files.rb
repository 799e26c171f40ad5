# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Writes the ledger's event files: appends what came since the previous generation, and reads a type anew from the
    # store when one of its properties has changed type.
    class EventFiles
      CHUNK = 500_000
      SELECT = <<~SQL
        SELECT id, event_type_id, profile_id, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', occurred_at),
               TIMESTAMPDIFF(MICROSECOND, '1970-01-01', received_at), properties
        FROM events WHERE
      SQL
      COLUMNS = { "event_id" => Polars::Int64, "event_type_id" => Polars::Int64, "profile_id" => Polars::Int64,
                  "occurred_at" => Polars::Int64, "received_at" => Polars::Int64,
                  "properties" => Polars::String }.freeze

      # What a written type amounts to; `firsts` has the first occurrence per profile.
      Summary = Struct.new(:type, :count, :oldest, :newest, :received, :firsts)

      # @param catalogue [Estrel::Catalogue]
      # @param previous [Estrel::Ledger::Generation, nil]
      # @param dump [Dump]
      # @param on_progress [Proc, nil]
      def initialize(catalogue, previous, dump, on_progress)
        @types = catalogue.event_types.values
        @previous = previous
        @dump = dump
        @on_progress = on_progress
      end

      # @param writer [Estrel::Ledger::Writer]
      # @param after [Integer] events up to this id are in the previous generation
      # @param up_to [Integer] the last id to read
      # @return [Array<Summary>]
      def write(writer, after, up_to)
        retyped = @types.select { |type| retyped?(type) }
        parts = read(statements(after, up_to, retyped), @types)
        @types.map do |type|
          old = retyped.include?(type) ? nil : previous_events(type)
          next summary(type, old) if old && !parts.key?(type.id) && same_columns?(old, type)

          frame = joined(old, parts.delete(type.id), type)
          @on_progress&.call("writing #{type.name}: #{frame.height} events")
          writer.put_events(type.id, frame)
          summary(type, frame)
        end
      end

      private

      def statements(after, up_to, retyped)
        ids = retyped.map(&:id).join(",")
        others = ids.empty? ? "" : " AND event_type_id NOT IN (#{ids})"
        ranges = (after...up_to).step(CHUNK).map do |from|
          "id > #{from} AND id <= #{[from + CHUNK, up_to].min}#{others}"
        end
        ranges << "event_type_id IN (#{ids}) AND id <= #{up_to}" unless ids.empty?
        ranges.map { |range| SELECT + range }
      end

      # @return [Hash{Integer => Array<Polars::DataFrame>}] by event type
      def read(statements, types)
        by_id = types.to_h { |type| [type.id, type] }
        parts = Hash.new { |hash, id| hash[id] = [] }
        @dump.each(statements, COLUMNS) do |frame|
          @on_progress&.call("read #{frame.height} events")
          frame.partition_by("event_type_id").each do |part|
            type = by_id.fetch(part["event_type_id"][0])
            parts[type.id] << typed(part, type)
          end
        end
        parts
      end

      def typed(part, type)
        return part.select(columns(type).keys) if type.properties.empty?

        part.hstack(PropertyColumns.new(type.properties.values).read(part["properties"])).select(columns(type).keys)
      end

      def joined(old, parts, type)
        frames = [old && conform(old, type), *parts].compact
        return Polars.concat(frames) if frames.any?

        Polars::DataFrame.new(columns(type).transform_values { [] }, schema_overrides: columns(type))
      end

      def previous_events(type)
        @previous.events(type.name) if @previous&.catalogue&.event_types&.key?(type.name)
      end

      def retyped?(type)
        before = @previous&.catalogue&.event_types&.[](type.name) or return false
        before.properties.any? { |name, field| type.properties[name].to_h != field.to_h }
      end

      def columns(type)
        properties = type.properties.values.to_h do |field|
          [Estrel::Ledger::Layout.property(field.name), Estrel::Ledger::Layout::DTYPES.fetch(field.type)]
        end
        Estrel::Ledger::Layout::EVENT_COLUMNS.except("day").merge(properties)
      end

      def same_columns?(frame, type) = (columns(type).keys - frame.columns).empty?

      # An older frame with the columns of today: properties first seen since are null.
      def conform(frame, type)
        missing = columns(type).except(*frame.columns)
        frame.with_columns(missing.map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) })
             .select(columns(type).keys)
      end

      def summary(type, frame)
        firsts = frame.lazy.group_by("profile_id").agg([Polars.col("occurred_at").min.alias("first_seen_at")]).collect
        Summary.new(type, frame.height, frame["occurred_at"].min, frame["occurred_at"].max, frame["received_at"].max,
                    firsts)
      end
    end
  end
end
