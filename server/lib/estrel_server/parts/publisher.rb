# frozen_string_literal: true

module EstrelServer
  module Parts
    # Gives the ledger of this machine to others, for as long as it is the one that is built here: which generation is
    # the current one, and its files, see {Mirror}. Who builds that of the first workspace also tells which others there
    # are, see {Mirrors}.
    class Publisher
      CURRENT = "current"
      WORKSPACES = "workspaces"

      # @param network [Network]
      # @param settings [Settings] of the workspace whose ledger it is
      def initialize(network, settings)
        @network = network
        @directory = settings.ledger_directory
        @files = Files.new(network, @directory)
        @first = settings.workspace == Workspaces::FIRST
        @subject = network.subject("ledger", settings.workspace)
        @subscriptions = []
        @published = false
        @network.connected { |client| listen(client) }
      end

      # @yieldreturn [Object]
      # @return [Object] the block's result
      def publish
        @published = true
        yield
      ensure
        @published = false
      end

      private

      def listen(client)
        client.subscribe(@subject) { |message| answer(message) if @published }
        client.subscribe(@network.subject(WORKSPACES)) { |message| list(message) if @published } if @first
      end

      def answer(message)
        @files.answer(message) do |asked|
          Estrel::Ledger.noted(@directory, Estrel::Ledger::CURRENT).to_s if asked == CURRENT
        end
      end

      def list(message)
        @network.seal.open(WORKSPACES, message.data) or return
        names = InstallationRecord.connection_pool.with_connection { InstalledWorkspace.pluck(:name) }
        told = JSON.generate([Workspaces::FIRST, *names])
        Network.quietly { message.respond(@network.seal.close("told #{WORKSPACES}", told)) }
      rescue *Database::Store::AWAY
        nil # whoever asks will do so again
      end
    end
  end
end
