# frozen_string_literal: true

module EstrelServer
  module Pushing
    # How far the pushes of some runs have come, asked for all at once.
    class Progress
      # @param runs [Array<ExportRun>]
      def initialize(runs)
        @runs = runs
        @batches = PushBatch.where(export_run_id: runs.map(&:id))
      end

      # @param run [ExportRun] one of them
      # @return [Hash, nil] plain JSON; nil for a run that is no push
      def of(run)
        return unless messages.key?(run.id)

        waiting, next_attempt_at, error = waiting_of.fetch(run.id, [0, nil, nil])
        { taken: taken.fetch(run.id, 0), refused: refused.fetch(run.id, 0), waiting: waiting.to_i,
          messages: messages.fetch(run.id), next_attempt_at: next_attempt_at&.iso8601(6), error: error && Estrel::English.sentence(error),
          half_way: waiting.positive? && run.stopped? }
      end

      private

      def messages = @messages ||= @batches.group(:export_run_id).sum(:attempts)

      def taken = @taken ||= @batches.taken.group(:export_run_id).sum("row_count - refused_count")

      def refused
        @refused ||= PushRefusal.standing.joins(:push_batch).merge(@batches).group(:export_run_id).count
      end

      # People waiting, when the next attempt is, and what went wrong with the last.
      def waiting_of
        @waiting_of ||= @batches.where(state: "waiting").group(:export_run_id)
                                .pluck(:export_run_id, Arel.sql("SUM(row_count)"), Arel.sql("MIN(next_attempt_at)"),
                                       Arel.sql("MAX(error)"))
                                .to_h { |id, *rest| [id, rest] }
      end
    end
  end
end
