# frozen_string_literal: true

module EstrelServer
  module Pushing
    # Cuts the people of a run into batches, once; from then on the run only goes through them.
    class Batches
      # @param run [ExportRun]
      def initialize(run)
        @run = run
        @size = run.export.destination.settings.fetch("batch_size")
      end

      # @param delivery [Estrel::Exports::Delivery]
      # @yield in the same transaction
      # @return [void]
      def cut(delivery)
        file = PeopleFile.new(@run)
        parts = file.write(delivery, @size)
        PushBatch.transaction do
          insert(file, parts, 0)
          yield
        end
      end

      # @param refusals [ActiveRecord::Relation<PushRefusal>] people who are sent once more
      # @return [void]
      def again(refusals)
        last = @run.batches.maximum(:number)
        file = PeopleFile.new(@run, "people-of-run-#{@run.id}-from-#{last + 1}.jsonl")
        from = @run.batches.where(id: refusals.distinct.reorder(nil).select(:push_batch_id)).order(:number).to_a
        parts = file.write_again(from, refusals.pluck(:profile_id).to_set, @size)
        insert(file, parts, last)
        PushRefusal.where(push_batch_id: from.map(&:id)).update_all(again: true)
      end

      private

      def insert(file, parts, last)
        rows = parts.each_with_index.map do |part, index|
          { export_run_id: @run.id, number: last + index + 1, file_name: file.name, **part }
        end
        rows.each_slice(1000) { |slice| PushBatch.insert_all!(slice) }
      end
    end
  end
end
