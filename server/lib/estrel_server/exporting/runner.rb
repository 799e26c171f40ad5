# frozen_string_literal: true

module EstrelServer
  module Exporting
    # Carries out one run: works out who is exported as of the run's date, asks for a person's word where far more or
    # fewer than last time would be, writes the whole file or nothing, puts it where it goes, and records what became of
    # everybody. A run that was interrupted is carried out from the start, with the same outcome.
    class Runner
      # Raised between two steps when the run has been cancelled.
      class Cancelled < Error; end
      # Raised where somebody in the run was erased while it was carried out.
      class ErasedMeanwhile < Error; end

      # @param run [ExportRun]
      # @param ledger [Estrel::Ledger]
      def initialize(run, ledger = EstrelServer.ledger)
        @run = run
        @ledger = ledger
      end

      # @param goes_on [Boolean] whether the run only passed its turn
      # @return [ExportRun]
      def run(goes_on: false)
        return @run unless @run.under_way?

        alone = @run.alone do |lease|
          @lease = lease
          @run.reload
          carry_out(goes_on) if @run.under_way?
        end
        @run.enqueue(Time.now.utc + AGAIN, goes_on: true) unless alone
        @run
      end

      private

      # Seconds after which it is looked again whether a run that another worker is at needs anything.
      AGAIN = 10
      private_constant :AGAIN

      def carry_out(goes_on)
        return unless begun?(goes_on)

        @run.batches.exists? ? push : decide
      rescue ErasedMeanwhile
        @run.files.remove
        @run.update!(file_name: nil, files_removed_at: nil, files_removed_because: nil)
        retry
      rescue Cancelled, Estrel::Budget::Cancelled
        @run.finish("cancelled")
      rescue Error, Estrel::Error, Polars::Error, SystemCallError => e
        @run.finish("failed", error: e.message, row_count: @run.batches.exists? ? @run.taken_count : nil)
      end

      def begun?(goes_on)
        return false if @run.state == "waiting"

        @run.update!(state: "running")
        return true if goes_on

        @run.update!(attempts: @run.attempts + 1, started_at: Time.now.utc, rows_before: @run.taken_count)
      end

      def decide
        preparation = prepare
        before = doubtful(preparation)
        before ? wait(preparation.delivery.counts, before) : export(preparation.delivery)
      end

      def prepare
        generation = @ledger.current
        rule_set = @run.rule_set && Answers::Asking.rule_set(@run.rule_set, generation.catalogue)
        definition = Answers::Asking.definition(@run.audience_version.definition, generation.catalogue)
        question = Answers::Question.new(generation, as_of: @run.as_of, rule_set: rule_set,
                                                     received_by: @run.received_by, limited: false,
                                                     cancelled: -> { cancelled? })
        Preparation.new(definition, @run.settings, question, export: @run.export, before: @run)
      end

      def export(delivery)
        @erasures = Erasure.mark
        counts = delivery.counts
        proceed
        path = @run.files.write_rows(delivery.parts.map { |rows| rows.tap { proceed } })
        @run.files.write_steps(delivery.waterfall.frame)
        proceed
        sha256 = Digest::SHA256.file(path).hexdigest
        manifest = Manifest.new(@run, headers: delivery.headers, sha256: sha256, counts: counts,
                                      rows: delivery.size, models: delivery.models)
        written = { file_name: File.basename(path), bytes: File.size(path), sha256: sha256, waterfall: counts,
                    manifest: manifest.to_json, exported_at: Time.now.utc }
        deliver(delivery, delivery.size, written)
      end

      def deliver(delivery, row_count, written)
        destination = @run.export.destination
        return push_anew(delivery, written) if destination&.webhook? && row_count.positive?

        Record.transaction { record(delivery, written) }
        hand_over(destination.directory) if destination && !destination.webhook?
        @run.finish("done", row_count: row_count)
      end

      def push_anew(delivery, written)
        Pushing::Batches.new(@run).cut(delivery) { record(delivery, written) }
        push
      end

      # Stores that the files are written. Erasing and this take turns, so either it sees the files or this sees that
      # somebody in them was erased.
      def record(delivery, written)
        IngestTurn.take
        people = delivery.waterfall.frame["profile_id"]
        raise ErasedMeanwhile if people.is_in(Erasure.profiles_since(@erasures)).any?

        @run.update!(written)
      end

      def hand_over(directory)
        raise ErasedMeanwhile if @run.reload.files_removed_at

        @run.files.copy_to(directory)
      rescue Errno::ENOENT
        raise @run.reload.files_removed_at ? ErasedMeanwhile : $ERROR_INFO
      end

      def push
        later = Pushing::Push.new(@run).go_on { proceed }
        return @run.enqueue(later, goes_on: true) if later

        @run.finish("done", row_count: @run.taken_count, refused_count: PushRefusal.of(@run).count)
      end

      # @return [Integer, nil] how many were exported last time, where the number now has to be asked about
      def doubtful(preparation)
        before = preparation.last_done&.waterfall&.fetch("exported")
        return if before.nil? || @run.approved

        before if @run.settings.wait?(before, preparation.delivery.counts.fetch("exported"))
      end

      def wait(counts, before)
        now, then_ = [counts.fetch("exported"), before].map { |people| Estrel::English.number(people) }
        why = "#{now} people would be exported now, #{then_} last time. Approve the run or cancel it."
        @run.update!(state: "waiting", waterfall: counts, waits_because: why)
        Alert.of_run(@run, why)
      end

      def proceed
        @lease.check
        raise Cancelled, "cancelled" if cancelled?
      end

      def cancelled? = ExportRun.where(id: @run.id, cancel_requested: true).exists?
    end
  end
end
