# frozen_string_literal: true

module EstrelServer
  module Workers
    # Removes events that occurred before those that the workspace keeps. From the moment on which a day is too old, the
    # ledger is built without it and what comes late for it is refused; the rows follow in blocks, so that nothing that
    # comes in waits for long. What was noted of changes of attributes as they came goes with them: the same change sent
    # once more says nothing new.
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

        removed = in_blocks(Event) do |rows|
          rows.where(occurred_at: ...workspace.kept_from).tap { |old| PropertyBlock.forget(old.ids) }
        end
        in_blocks(Receipt) { |rows| rows.where(kind: "attributes", received_at: ...workspace.kept_from) }
        workspace.update!(events_removed_before: first)
        note(removed, first) if removed.positive?
        removed
      end

      private

      # @yieldparam rows [ActiveRecord::Relation] of one block
      # @yieldreturn [ActiveRecord::Relation] those that go
      # @return [Integer] how many went
      def in_blocks(model)
        (0..(model.maximum(:id) || 0)).step(BLOCK).sum do |id|
          Record.transaction do
            IngestTurn.take
            yield(model.where(id: id...(id + BLOCK))).delete_all
          end
        end
      end

      def note(removed, first)
        AuditEntry.add("old events removed", who: "Estrel", about: "#{removed} that occurred before #{first}")
      end
    end
  end
end
