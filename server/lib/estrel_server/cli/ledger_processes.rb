# frozen_string_literal: true

module EstrelServer
  module CLI
    # What goes on about the ledger in processes of its own.
    module LedgerProcesses
      private

      def follow_store
        working_as("ledger", "ledger", "follow")
        Workers::LedgerFollower.new.run
      end

      # Without a database; where there is one, it helps to build, too.
      def mirror
        settings = checked_settings
        EstrelServer.started_as("ledger")
        network = Parts::Network.of(settings) or
          raise Thor::Error, "there is no other machine to take the ledger from; set ESTREL_NATS_URL"
        Parts::Lender.new(network, settings).lend if settings.database_url
        Parts::Mirrors.new(network, settings).run
      end

      # For a process that builds it, which tells what by standard input.
      def write_pieces
        Database::Store.connect(checked_settings)
        LedgerBuilding::PieceProcess.new(lent: options[:lent]).run
      end
    end
  end
end
