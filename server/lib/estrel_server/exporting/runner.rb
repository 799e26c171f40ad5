# frozen_string_literal: true

module EstrelServer
  module Exporting
    # Carries out one run: works out who is handed over as of the run's date, asks for a person's word where far more or
    # fewer than last time would be, writes the whole file or nothing, puts it where it goes, and records what became of
    # everybody. A run that was interrupted is carried out from the start, with the same outcome.
    class Runner
      # Raised between two steps when the run has been cancelled.
      class Cancelled < Error; end

      # @param run [ExportRun]
      # @param ledger [Estrel::Ledger]
      def initialize(run, ledger = EstrelServer.ledger)
        @run = run
        @ledger = ledger
      end

      # @return [ExportRun]
      def run
        return @run unless @run.under_way? && begun?

        preparation = prepare
        before = doubtful(preparation)
        before ? wait(preparation.delivery.counts, before) : hand_over(preparation.delivery)
        @run
      rescue Cancelled, Estrel::Audience::Budget::Cancelled
        @run.finish("cancelled")
        @run
      rescue Error, Estrel::Error, Polars::Error, SystemCallError => e
        @run.finish("failed", error: e.message)
        @run
      end

      private

      def begun?
        return false if @run.state == "waiting"

        @run.update!(state: "running", attempts: @run.attempts + 1, started_at: Time.now.utc)
      end

      def prepare
        generation = @ledger.current
        policy = @run.policy && Asking.policy(@run.policy, generation.catalogue)
        definition = Asking.definition(@run.audience_version.definition, generation.catalogue)
        question = Question.new(generation, as_of: @run.as_of, policy: policy, known_on: @run.known_on, limited: false,
                                            cancelled: -> { cancelled? })
        Preparation.new(definition, @run.plan, question, export: @run.export, before: @run)
      end

      def hand_over(delivery)
        counts = delivery.counts
        proceed
        rows = delivery.rows
        path = @run.files.write_rows(rows)
        @run.files.write_steps(delivery.waterfall.frame)
        proceed
        sha256 = Digest::SHA256.file(path).hexdigest
        manifest = Manifest.new(@run, headers: rows.columns, sha256: sha256, counts: counts, rows: rows.height)
        @run.update!(file_name: File.basename(path), sha256: sha256, waterfall: counts, manifest: manifest.to_json)
        destination = @run.export.destination
        @run.files.copy_to(destination.directory) if destination
        @run.finish("done", row_count: rows.height, bytes: File.size(path))
      end

      # @return [Integer, nil] how many were handed over last time, where the number now has to be asked about
      def doubtful(preparation)
        before = preparation.last_done&.waterfall&.fetch("handed_over")
        return if before.nil? || @run.approved

        before if @run.plan.wait?(before, preparation.delivery.counts.fetch("handed_over"))
      end

      def wait(counts, before)
        now, then_ = [counts.fetch("handed_over"), before].map { |people| Estrel::Audience::Wording.number(people) }
        why = "#{now} would be handed over now, #{then_} were last time: say whether that is right."
        @run.update!(state: "waiting", waterfall: counts, waits_because: why)
        Notice.of_run(@run, why)
      end

      def proceed
        raise Cancelled, "cancelled" if cancelled?
      end

      def cancelled? = ExportRun.where(id: @run.id, cancel_requested: true).exists?
    end
  end
end
