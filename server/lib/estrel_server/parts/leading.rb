# frozen_string_literal: true

module EstrelServer
  module Parts
    # Which of several machines builds the ledger: whichever holds the lease. Its processes know each other by a locked
    # file beside the ledger.
    class Leading
      LEASE = "ledger"
      LEADING = "leading"
      # Seconds between looks whether another machine's ledger has arrived.
      LOOK = 0.2
      # Seconds for which that is waited for.
      PATIENCE = 600
      private_constant :LEASE, :LEADING, :LOOK, :PATIENCE

      # @param settings [Settings]
      def initialize(settings)
        @settings = settings
      end

      # Has this machine build it, where no other one does.
      #
      # @yieldparam lease [Database::Lease]
      # @return [Object] the block's result
      # @raise [Database::Lease::Busy]
      def lead
        lease = Database::Lease.new(LEASE)
        raise Database::Lease::Busy, "another machine builds the ledger" unless lease.free?

        lease.hold { turn.take { yield(lease) } }
      rescue LedgerBuilding::Turn::Taken
        raise Database::Lease::Busy, "another process of this machine builds the ledger"
      end

      # @return [Boolean] whether a process of this machine leads
      def here?
        turn.take { false }
      rescue LedgerBuilding::Turn::Taken
        true
      end

      # Waits until the ledger here holds all that the store holds now.
      #
      # @param ledger [Estrel::Ledger]
      # @yieldparam generation [Estrel::Ledger::Readable]
      # @yieldreturn [Boolean] whether it is one of this store, as it is set now
      # @return [Hash] its facts
      # @raise [Error] where it does not come
      def arrived(ledger)
        marks = LedgerBuilding::Snapshot.marks
        deadline = now + PATIENCE
        until (found = current(ledger)) && yield(found) && holds?(found.facts["marks"], marks)
          raise Error, "the ledger is built on another machine, and has not arrived from there" if now > deadline

          sleep(LOOK)
        end
        found.facts
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def turn = LedgerBuilding::Turn.new(@settings.ledger_directory, LEADING)

      def current(ledger)
        ledger.current
      rescue Estrel::Ledger::Missing, SystemCallError
        nil
      end

      def holds?(there, marks) = marks.all? { |name, mark| there[name].to_i >= mark.to_i }
    end
  end
end
