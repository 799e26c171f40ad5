# frozen_string_literal: true

module EstrelServer
  module Parts
    # Keeps the ledger of this machine the same as the one that another builds, see {Publisher}, or some pieces of it.
    class Mirror
      # Seconds between looks whether there is another generation.
      PAUSE = 0.5
      # Seconds for which the next answer is waited for, and for which it is whether anybody answers at all.
      PATIENCE = 5
      HEARING = 2
      private_constant :PATIENCE, :HEARING

      # @param network [Network]
      # @param settings [Settings] of the workspace whose ledger it is
      # @param seconds [Numeric] in which a generation has to arrive
      # @param held [Estrel::Ledger::Held] the pieces that are taken
      def initialize(network, settings, seconds: Float::INFINITY, held: Estrel::Ledger::Held::ALL)
        @network = network
        @directory = settings.ledger_directory
        @var = settings.var
        @subject = network.subject("ledger", settings.workspace)
        @seconds = seconds
        @replica = Estrel::Ledger::Replica.new(@directory, held, aside: settings.written_directory,
                                                                 kept: settings.question_seconds)
      end

      # Takes the newest generation, where there is one that this machine does not have.
      #
      # @return [Boolean] whether it has that now, or a newer one of its own
      def step
        name = ask(Publisher::CURRENT, seconds: HEARING).first.to_s
        return false if name.empty?
        return true if @replica.current?(name)

        Disk.check(@var)
        taken, seconds = Figures.timed { take(name) }
        Log.info("ledger taken from where it is built", seconds: seconds.round(3)) if taken
        true
      rescue Estrel::Ledger::Missing, LedgerBuilding::Turn::Taken
        false # there is a newer one by now, or the connection has been lost or is too slow, or one is being built here
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
        deadline = now + @seconds
        LedgerBuilding::Turn.new(@directory, LedgerBuilding::Builder::BUILDING).take(wait: PATIENCE) do
          @replica.take(name) do |pieces|
            raise Estrel::Ledger::Missing, "#{name} does not arrive in time" if now > deadline

            ask(*pieces.map { |piece| piece.join(" ") })
          end
        end
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # @return [Array<String, nil>]
      def ask(*what, seconds: PATIENCE) = Files.ask(@network, @subject, what, seconds: seconds)
    end
  end
end
