# frozen_string_literal: true

module EstrelServer
  module Importing
    # Reads one file into the store, batch by batch, and keeps its {Import} record up to date.
    #
    # One thread reads and checks rows while this one stores the batch before; a bounded queue lies between, so memory
    # does not grow with the file. Each batch is one transaction: whatever happens, the same file imported again ends
    # in the same data.
    class FileImporter
      BATCH = 20_000
      QUEUE = 3
      MAX_ORIGINAL = 65_536
      # Rejected rows that are kept with what they were; further ones are counted.
      MAX_REJECTS = 100_000
      # Where so many rows have been read and none could be used, the file is not what it is taken for.
      HOPELESS = 100_000
      # The time of attributes that have always held.
      BEGINNING = Time.utc(1970)

      # @param import [Import]
      # @param settings [Settings]
      # @yieldparam import [Import] after every batch, for showing progress
      def initialize(import, settings = EstrelServer.settings, &on_progress)
        @import = import
        @settings = settings
        @on_progress = on_progress
        @started_at = Time.now.utc
        @mapping = Mapping.new(import.mapping)
        @cancelling = Cancelling.new(import)
      end

      # Runs the import to its end, whichever it is; the record tells.
      #
      # @return [Import]
      def run
        alone do
          @import.update!(state: "running", started_at: @started_at, error: nil)
          @source = SourceFile.new(@import.path, @mapping, @settings)
          @source.as_lines do |path, encoding|
            @path = path
            @encoding = encoding
            prepare
            store_all
          end
          @import.update!(state: "done", bytes_done: @import.bytes_total, finished_at: Time.now.utc)
        end
        @import
      rescue Cancelling::Cancelled
        finish("cancelled", "cancelled; rows stored so far are kept")
      rescue Error, Mapping::Invalid => e
        finish("failed", e.message)
      rescue *Database::Store::AWAY
        raise # the job comes back when the database does
      rescue StandardError
        finish("failed", "something went wrong while reading this file; the log has the details")
        raise
      end

      private

      def finish(state, message)
        @import.update!(state: state, error: message, finished_at: Time.now.utc)
        @import
      end

      def alone(&)
        @import.lease.hold(&)
      rescue Database::Lease::Busy
        raise Error, "this import is already running in another process"
      end

      def prepare
        IdentifierKind.declare(@mapping.custom_ids)
        @input = input
        settle_observed_at if @import.kind == "profiles"
        @import.update!(bytes_total: @input.bytes_total)
        head = FileHead.new(method(:input))
        @rows = head.form(@mapping.flat?)
        @json = @rows == JsonRows
        @import.update!(header: input.first_line) if @rows == CsvRows
        sample = head.rows(flat: @mapping.flat?)
        @now = database_time(@started_at)
        @earliest = Workspace.current.kept_from if @import.kind == "events"
        reader = reader(sample)
        @identity = Identity.new(@now)
        @catalogue = CatalogueKeeper.new
        @store = store_for_kind
        @batches = BatchReader.new(reader, **(@import.kind == "events" ? quick_readers(sample) : {}))
      end

      def store_for_kind
        return EventStore.new(@identity, @catalogue) if @import.kind == "events"

        ProfileStore.new(@identity, @catalogue, @now)
      end

      # Ordinary events are read many at a time; only JSON lines have the reserved types.
      def quick_readers(sample)
        kinds = IdentifierKind.ids.keys
        @ordinary_store = OrdinaryEventStore.new(@identity, @catalogue, @settings)
        common = { mapping: @mapping, kinds: kinds, latest: latest, earliest: @earliest, received_at: @now }
        if @rows == CsvRows
          format = instants(sample).format
          return { ordinary: OrdinaryRows.new(column_types: column_types(sample), format: format, **common) }
        end
        return {} unless @json

        { ordinary: OrdinaryEvents.new(**common),
          facts: Collecting::FactReader.new(instants: instants(sample, earliest: nil),
                                            identifiers: Identifiers.new(kinds), received_at: @now) }
      end

      def column_types(sample) = @rows == CsvRows ? FileHead.column_types(sample, @mapping) : {}

      def latest = @started_at + (Workspace.current.future_tolerance_minutes * 60)

      # Attributes without a time of their own get the time the file's contents were first seen, so that importing the
      # same file again changes nothing.
      def settle_observed_at
        digest = @source.digest { @cancelling.check }
        earlier = Import.where(content_digest: digest, kind: "profiles").minimum(:observed_at)
        earlier = BEGINNING if @mapping.always?
        @import.update!(content_digest: digest, observed_at: earlier || @import.observed_at)
      end

      def input
        InputFile.new(@path, limit: @settings.unpacked_mb * 1_000_000, encoding: @encoding) do
          @cancelling.check(bytes_done: @input&.bytes_done)
        end
      end

      def rows(input) = @rows.new(input)

      def reader(sample)
        common = { mapping: @mapping, instants: instants(sample), column_types: column_types(sample),
                   identifiers: Identifiers.new(IdentifierKind.ids.keys) }
        return EventReader.new(received_at: @now, **common) if @import.kind == "events"

        ProfileReader.new(observed_at: database_time(@import.observed_at), **common)
      end

      def instants(sample, earliest: @earliest)
        times = sample.filter_map { |values| values[@mapping.column("time")] }
        Instants.new(@mapping.time_format || Instants.detect(times), time_zone: @mapping.time_zone,
                                                                     latest: latest, earliest: earliest)
      end

      def database_time(time) = time.getutc.strftime("%Y-%m-%d %H:%M:%S.%6N")

      def store_all
        queue = SizedQueue.new(QUEUE)
        producer = Workspaces.thread { produce(queue) }
        producer.report_on_exception = false
        while (batch = queue.pop)
          store(batch)
        end
        producer.value
      ensure
        producer&.kill
      end

      def produce(queue)
        pending = []
        rows(@input).each do |row|
          pending << row
          next if pending.size < BATCH

          @cancelling.check

          queue << @batches.read(pending, @input.bytes_done)
          pending = []
        end
        queue << @batches.read(pending, @input.bytes_done)
      ensure
        queue << nil
      end

      def store(batch)
        @cancelling.check(at_once: true)
        Disk.check(@settings.var)
        Record.transaction do
          owners_as_of(IngestTurn.take)
          outcome = batch.messages ? store_in_order(batch) : store_by_kind(batch)
          count(batch, outcome)
          # Before its rejects: these lock the import's row for reading, and a lock that grows can be a deadlock with
          # {Cancelling}, which writes to the row meanwhile.
          @import.save!
          keep_rejects(batch.refusals + outcome.refusals)
        end
        @on_progress&.call(@import)
        give_up_hopeless
      rescue StandardError
        @identity.forget_uncommitted
        @catalogue.reload
        raise
      end

      def give_up_hopeless
        return unless @import.rows_read >= HOPELESS && (@import.stored + @import.already_known).zero?

        raise InputFile::Unreadable, "none of the first #{@import.rows_read} rows could be used; check the rejected " \
                                     "rows and the column mapping"
      end

      # What was remembered is wrong when somebody else has merged, moved or erased meanwhile.
      def owners_as_of(version)
        @identity.forget_uncommitted unless [nil, version].include?(@owners_version)
        @catalogue.reload unless [nil, version].include?(@owners_version)
        @owners_version = version
      end

      def store_by_kind(batch)
        store_block(batch)
        @store.store(batch.rows)
      end

      def store_in_order(batch)
        Collecting::Sequence.new(@identity, @catalogue).store(batch.messages)
        @owners_version = IngestTurn.take # links of our own have been heeded already
        batch.messages.each_with_object(Outcome.new) do |message, outcome|
          case message.outcome
          when "stored" then outcome.stored += 1
          when "known" then outcome.known << message
          else outcome.refusals << Outcome::Refusal.new(message, message.reason, message.conflict?)
          end
        end
      end

      # What cannot be stored together is read again row by row, which finds out what is to be said of it.
      def store_block(batch)
        return unless batch.block

        @together = @ordinary_store.store(batch.block)
        @batches.read_rows(@together.left.map { |index| batch.source_rows[index] }, batch)
        batch.rows.sort_by! { |event| event.row.number }
      end

      def count(batch, outcome)
        @import.bytes_done = batch.bytes_done
        @import.rows_read += batch.source_rows.size
        @import.stored += outcome.stored + (batch.block ? @together.stored : 0)
        @import.already_known += outcome.already_known + (batch.block ? @together.known : 0)
        @import.rejected += batch.refusals.size + outcome.refusals.size
        @import.conflicts += outcome.refusals.count(&:conflict)
      end

      def keep_rejects(refusals)
        room = [MAX_REJECTS - (@import.rejected - refusals.size), 0].max
        rows = refusals.first(room).map do |refusal|
          original = refusal.row.original.dup.force_encoding(Encoding::UTF_8).scrub("\u{FFFD}")
          [@import.id, refusal.row.number, refusal.reason[0, 1000], original[0, MAX_ORIGINAL], refusal.conflict ? 1 : 0]
        end
        SQL.insert("rejects", "import_id, `row_number`, reason, original, conflict", rows)
      end
    end
  end
end
