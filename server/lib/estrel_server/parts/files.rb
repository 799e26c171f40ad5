# frozen_string_literal: true

module EstrelServer
  module Parts
    # Files of a directory as one machine gives them to another: by name and where in it to begin, so much at a time.
    class Files
      # Names of files of a ledger, without a way out of its directory.
      NAME = /\A[A-Za-z0-9_-]+\.(?:arrow|json)\z/ # linear: one run up to the point
      # What the messages about them are sealed for.
      PURPOSE = "ledger"
      private_constant :NAME, :PURPOSE

      # Asks another machine.
      #
      # @param network [Network]
      # @param subject [String] under which it gives them
      # @param what [Array<String>] as {#answer} reads them
      # @param seconds [Numeric] for which the next answer is waited for
      # @return [Array<String, nil>] nil where there is no answer
      def self.ask(network, subject, what, seconds:)
        sealed = what.map { |one| network.seal.close(PURPOSE, one) }
        answers = network.ask_each(subject, sealed, seconds: seconds)
        what.zip(answers).map { |one, answer| answer && network.seal.open("#{PURPOSE} #{one}", answer) }
      end

      # @param network [Network]
      # @param directory [String]
      def initialize(network, directory)
        @network = network
        @directory = directory
      end

      # Answers a message of ours with what there is; other messages, and those about what is gone, not at all.
      #
      # @param message [NATS::Msg] "NAME OFFSET", sealed
      # @yieldparam asked [String] before it is taken for the name of a file
      # @yieldreturn [String, nil] what is answered instead
      # @return [void]
      def answer(message)
        asked = @network.seal.open(PURPOSE, message.data) or return
        bytes = (block_given? && yield(asked)) || read(asked) or return
        Network.quietly { message.respond(@network.seal.close("#{PURPOSE} #{asked}", bytes)) }
      end

      private

      def read(asked)
        name, offset = asked.split
        return unless NAME.match?(name.to_s)

        File.binread(File.join(@directory, name), Estrel::Ledger::Fetch::CHUNK, offset.to_i).to_s
      rescue SystemCallError
        nil
      end
    end
  end
end
