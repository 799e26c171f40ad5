# frozen_string_literal: true

module EstrelServer
  module Exporting
    # How long exported files are kept here: some days, and no longer than a person in them is. What has been handed
    # over to a folder or a destination is no longer ours to remove.
    class Retention
      # @param settings [Settings]
      def initialize(settings = EstrelServer.settings)
        @settings = settings
      end

      # Removes the files of runs that are older than the settings allow.
      #
      # @return [void]
      def clear_old
        old = ExportRun.where(files_removed_at: nil).where.not(file_name: nil)
                       .where(finished_at: ...(Time.now.utc - (@settings.export_days * 86_400)))
        old.find_each { |run| remove(run, "older than #{@settings.export_days} days") }
      end

      # Removes the files of every run in which one of some people was, and takes them out of what is kept of its steps.
      #
      # @param profile_ids [Array<Integer>]
      # @return [Array<Integer>] the runs whose files went
      def forget(profile_ids)
        ExportRun.where.not(waterfall: nil).find_each.filter_map do |run|
          next unless run.files.forgotten?(profile_ids)

          remove(run, "a person in it was erased") if run.files_removed_at.nil? && run.file_name
          run.id
        end
      end

      private

      def remove(run, because)
        run.files.remove
        run.update!(files_removed_at: Time.now.utc, files_removed_because: because)
        AuditEntry.add("exported file deleted", who: Access::Current.account&.email || "Estrel",
                                                about: "run #{run.id}: #{because}")
      end
    end
  end
end
