# frozen_string_literal: true

module EstrelServer
  module Parts
    # Gives the ledger of this machine to others, for as long as it is the one that is built here: which generation is
    # the current one, and its files, see {Mirror}.
    class Publisher
      # Names of files of a ledger, without a way out of its directory.
      FILE = /\A[A-Za-z0-9_-]+\.(?:arrow|json)\z/ # linear: one run up to the point
      CURRENT = "current"
      private_constant :FILE

      # @param network [Network]
      # @param settings [Settings] of the workspace whose ledger it is
      def initialize(network, settings)
        @network = network
        @directory = settings.ledger_directory
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
      end

      # What is not asked by one of ours, and what is gone, is not answered.
      def answer(message)
        asked = @network.seal.open("ledger", message.data) or return
        bytes = asked == CURRENT ? Estrel::Ledger.noted(@directory, Estrel::Ledger::CURRENT).to_s : file(asked)
        Network.quietly { message.respond(@network.seal.close("ledger #{asked}", bytes)) } if bytes
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
