# frozen_string_literal: true

module EstrelServer
  module Importing
    # Stores a block of ordinary events in one statement, without those that are known already.
    #
    # To be used inside a transaction that holds the ingest turn.
    class OrdinaryEventStore
      LINE = %w[event_type_id profile_id source_id key occurred_at received_at properties device].freeze
      # How the database is told that there is nothing, where nothing is escaped.
      NOTHING = "NULL"

      # @param identity [Identity]
      # @param catalogue [CatalogueKeeper]
      # @param settings [Settings]
      def initialize(identity, catalogue, settings)
        @identity = identity
        @catalogue = catalogue
        @settings = settings
        @known = KnownEvents.new(catalogue, identity)
        @seen = false # whether the last block had events that were known already
      end

      # What became of a block: how many were stored, how many had been stored exactly so before, and the positions of
      # those that are to be read row by row.
      Result = Struct.new(:stored, :known, :left)

      # @param block [Ordinary::Block]
      # @return [Result]
      def store(block)
        frame = block.frame
        return Result.new(0, 0, frame["row"].to_a) if refused?(block)
        return Result.new(frame.height, 0, []) if !@seen && insert(frame, block)

        same, others, fresh = @known.split(frame)
        @seen = fresh.height < frame.height
        insert(fresh, block)
        Result.new(fresh.height, same.height, others["row"].to_a)
      end

      private

      def refused?(block)
        @catalogue.overflow(block.examples).any? || @identity.erased(block.frame["subject"].unique.to_a).any?
      end

      # @return [Boolean] false, and nothing kept of what these events bring along, where one of them is known already
      def insert(frame, block)
        return true if frame.height.zero?

        Record.transaction(requires_new: true) do
          @catalogue.observe(block.examples(frame), frame["source"].unique.to_a)
          write(numbered(frame))
        end
        true
      rescue ActiveRecord::RecordNotUnique
        @catalogue.reload
        @identity.forget_uncommitted
        false
      end

      # @return [Polars::DataFrame] {LINE} as text
      def numbered(frame)
        subjects = frame["subject"].to_a.uniq # in the order of the file: profiles are numbered the same every time
        numbered = { "profile_id" => ["subject", @identity.resolve(times(frame).slice(*subjects))],
                     "device" => ["subject", subjects.to_h { |subject| [subject, Importing::Device.number(subject)] }],
                     "event_type_id" => ["type", ids(frame, "type") { |name| @catalogue.event_type_id(name) }],
                     "source_id" => ["source", ids(frame, "source") { |name| @catalogue.source_id(name) }] }
        joined = numbered.reduce(frame) do |rows, (name, (by, ids))|
          rows.join(table(by, name, ids), on: by, how: "left")
        end
        joined.sort(%w[profile_id occurred_at]).select(LINE.map { |name| Polars.col(name).cast(Polars::String) })
      end

      def times(frame)
        earliest = %w[occurred_at received_at].map { |name| Polars.col(name).min }
        frame.group_by("subject").agg(earliest).rows.to_h { |subject, *times| [subject, Identity::Times.new(*times)] }
      end

      def ids(frame, column) = frame[column].unique.to_a.to_h { |name| [name, yield(name)] }

      def table(key, value, ids)
        Polars::DataFrame.new({ key => ids.keys, value => ids.values }, schema_overrides: { value => Polars::Int64 })
      end

      # The rows' foreign keys were read or made in this very transaction, under the ingest turn that every change of
      # them needs; having the database look each up again would cost a quarter of the time.
      def write(rows)
        SQL.connection.execute("SET SESSION foreign_key_checks = 0")
        SQL.files? ? load_file(rows) : SQL.in_statements("events", EventStore::COLUMNS, rows.rows)
      ensure
        SQL.connection.execute("SET SESSION foreign_key_checks = 1")
      end

      def load_file(rows)
        path = @settings.exchange_file("events")
        line = Polars.concat_str(LINE.map { |name| Polars.col(name).fill_null(NOTHING) }, sep: "\t")
        File.write(path, "#{rows.select([line.str.concat("\n")]).item}\n")
        columns = EventStore::COLUMNS.sub("device", "@device")
        SQL.connection.execute("LOAD DATA INFILE #{SQL.quote(path)} INTO TABLE events CHARACTER SET utf8mb4 " \
                               "FIELDS TERMINATED BY '\\t' ESCAPED BY '' (#{columns}) " \
                               "SET device = NULLIF(@device, '#{NOTHING}')")
      ensure
        FileUtils.rm_f(path) if path
      end
    end
  end
end
