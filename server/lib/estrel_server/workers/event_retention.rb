# frozen_string_literal: true

module EstrelServer
  module Workers
    # Removes events that occurred before those that the workspace keeps. From the moment on which a day is too old, the
    # ledger is built without it and what comes late for it is refused; the rows follow in blocks, so that nothing that
    # comes in waits for long.
    class EventRetention
      # Rows looked at in one transaction.
      BLOCK = 50_000

      # @return [Integer] how many events were removed
      def carry_out
        workspace = Workspace.current
        workspace.keep_by(workspace.today)
        workspace.save!
        first = workspace.events_from
        return 0 if first.nil? || workspace.events_removed_before == first

        removed = remove(workspace.kept_from)
        workspace.update!(events_removed_before: first)
        note(removed, first) if removed.positive?
        removed
      end

      private

      def remove(before)
        (0..(Event.maximum(:id) || 0)).step(BLOCK).sum do |id|
          Record.transaction do
            IngestTurn.take
            Event.where(id: id...(id + BLOCK), occurred_at: ...before).delete_all
          end
        end
      end

      def note(removed, first)
        AuditEntry.add("old events removed", who: "Estrel", about: "#{removed} that occurred before #{first}")
      end
    end
  end
end
