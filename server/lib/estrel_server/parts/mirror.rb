# frozen_string_literal: true

module EstrelServer
  module Parts
    # Keeps the ledger of this machine the same as the one that another builds, see {Publisher}.
    class Mirror
      # Seconds between looks whether there is another generation.
      PAUSE = 0.5
      # Seconds for which an answer is waited for.
      PATIENCE = 2
      private_constant :PATIENCE

      # @param network [Network]
      # @param directory [String] of the ledger
      def initialize(network, directory)
        @network = network
        @directory = directory
        @replica = Estrel::Ledger::Replica.new(directory)
      end

      # Takes the newest generation, where there is one that this machine does not have.
      #
      # @return [Boolean] whether it has it now
      def step
        name = ask(Publisher::CURRENT).to_s
        return false if name.empty?
        return true if @replica.current?(name)

        Disk.check(File.dirname(@directory))
        _, seconds = Figures.timed { take(name) }
        Log.info("ledger taken from where it is built", seconds: seconds.round(3))
        true
      rescue Estrel::Ledger::Missing
        false # there is a newer one by now, or the connection has been lost
      end

      # Until the process ends.
      #
      # @return [void]
      def run
        loop do
          step
        rescue Error, Estrel::Error => e
          Log.error("the ledger cannot be taken", e)
          sleep(5 * PAUSE)
        ensure
          sleep(PAUSE)
        end
      end

      private

      def take(name)
        LedgerBuilding::Turn.new(@directory, LedgerBuilding::Builder::BUILDING).take(wait: PATIENCE) do
          @replica.take(name) { |file, offset| ask("#{file} #{offset}") }
        end
      rescue LedgerBuilding::Turn::Taken
        nil
      end

      def ask(what)
        answer = @network.ask(@network.subject("ledger"), @network.seal.close("ledger", what), seconds: PATIENCE)
        answer && @network.seal.open("ledger #{what}", answer)
      end
    end
  end
end
