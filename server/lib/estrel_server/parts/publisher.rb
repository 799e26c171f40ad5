# frozen_string_literal: true

module EstrelServer
  module Parts
    # Gives the ledger of this machine to others, for as long as it is the one that is built here: which generation is
    # the current one, and its files, see {Mirror}. Who builds that of the first workspace also tells which others there
    # are, see {Mirrors}.
    class Publisher
      # Names of files of a ledger, without a way out of its directory.
      FILE = /\A[A-Za-z0-9_-]+\.(?:arrow|json)\z/ # linear: one run up to the point
      CURRENT = "current"
      WORKSPACES = "workspaces"
      private_constant :FILE

      # @param network [Network]
      # @param settings [Settings] of the workspace whose ledger it is
      def initialize(network, settings)
        @network = network
        @directory = settings.ledger_directory
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

      # What is not asked by one of ours, and what is gone, is not answered.
      def answer(message)
        asked = @network.seal.open("ledger", message.data) or return
        bytes = asked == CURRENT ? Estrel::Ledger.noted(@directory, Estrel::Ledger::CURRENT).to_s : file(asked)
        Network.quietly { message.respond(@network.seal.close("ledger #{asked}", bytes)) } if bytes
      end

      def list(message)
        @network.seal.open(WORKSPACES, message.data) or return
        names = InstallationRecord.connection_pool.with_connection { InstalledWorkspace.pluck(:name) }
        told = JSON.generate([Workspaces::FIRST, *names])
        Network.quietly { message.respond(@network.seal.close("told #{WORKSPACES}", told)) }
      rescue *Database::Store::AWAY
        nil # whoever asks will do so again
      end

      def file(asked)
        name, offset = asked.split
        return unless FILE.match?(name.to_s)

        File.binread(File.join(@directory, name), Estrel::Ledger::Replica::CHUNK, offset.to_i).to_s
      rescue SystemCallError
        nil
      end
    end
  end
end
