# frozen_string_literal: true

module EstrelServer
  module Exporting
    # Exports and their runs as the HTTP API presents them.
    module Text
      module_function

      # @param export [Export]
      # @return [Hash] plain JSON
      def export(export)
        { id: export.id, name: export.name, audience_id: export.audience_id, audience: export.audience.name,
          version: export.pinned_version&.number, newest_version: export.audience.current.number,
          sentence: Access::Disclosure.sentence(export.version), destination_id: export.destination_id,
          destination: export.destination&.name, rules: export.settings.to_h, created_at: instant(export.created_at),
          updated_at: instant(export.updated_at), next_run_at: instant(export.next_run_at),
          last_run: export.runs.first && run(export.runs.first), **export.belonging }
      end

      # @param runs [Enumerable<ExportRun>]
      # @return [Array<Hash>] plain JSON
      def runs(runs)
        progress = Pushing::Progress.new(runs.to_a)
        runs.map { |one| run(one, progress) }
      end

      # @param run [ExportRun]
      # @param progress [Pushing::Progress]
      # @return [Hash] plain JSON
      def run(run, progress = Pushing::Progress.new([run]))
        version = run.audience_version
        { id: run.id, export_id: run.export_id, export: run.export.name, audience_id: version.audience_id,
          audience: version.audience.name, version: version.number,
          sentence: Access::Disclosure.sentence(version), rules: run.settings.to_h, as_of: run.as_of,
          received_by: run.received_by, state: run.state, people: run.waterfall, row_count: run.row_count,
          bytes: run.bytes, sha256: run.sha256, file_name: run.file_name,
          file_removed_because: run.files_removed_because, error: run.error && Estrel::English.sentence(run.error),
          waits_because: run.waits_because, attempts: run.attempts, cancel_requested: run.cancel_requested,
          started_by: run.started_by, note: run.note, seconds: seconds(run), rows_per_second: rate(run),
          push: progress.of(run), created_at: instant(run.created_at), exported_at: instant(run.exported_at),
          finished_at: instant(run.finished_at) }
      end

      def rate(run)
        return if run.row_count.nil? || seconds(run).to_f.zero?

        ((run.row_count - run.rows_before) / seconds(run)).round
      end
      private_class_method :rate

      def instant(time) = time&.iso8601(6)
      private_class_method :instant

      def seconds(run) = run.finished_at && run.started_at && (run.finished_at - run.started_at).round(3)
      private_class_method :seconds
    end
  end
end
