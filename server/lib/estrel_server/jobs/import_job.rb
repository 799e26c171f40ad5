# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Imports one uploaded file in a background worker, then brings the ledger up to date.
    ImportJob = Struct.new(:import_id) do
      def perform
        import = Import.find(import_id)
        return if import.finished?
        return import.give_up if import.starts >= Import::MAX_STARTS

        import.increment!(:starts)
        Importing::FileImporter.new(import).run
        LedgerBuilding::Builder.new.refresh
      end

      def max_attempts = 3

      def queue_name = "imports"
    end
  end
end
