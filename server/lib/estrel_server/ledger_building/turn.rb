# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # What one process of this machine at a time may do with the ledger's files: a locked file beside them, which the
    # system frees when its holder is gone.
    class Turn
      # Raised where another process is at it.
      class Taken < Error; end

      # Seconds between looks whether it has become free.
      LOOK = 0.1
      private_constant :LOOK

      # @param directory [String] of the ledger
      # @param name [String]
      def initialize(directory, name)
        @path = "#{directory}-#{name}.lock"
      end

      # @param wait [Numeric] seconds for which it is waited for
      # @return [Object] what the block returns
      # @raise [Taken]
      def take(wait: 0)
        FileUtils.mkdir_p(File.dirname(@path), mode: 0o700)
        File.open(@path, File::RDWR | File::CREAT, 0o600) do |file|
          deadline = now + wait
          until file.flock(File::LOCK_EX | File::LOCK_NB)
            raise Taken, "another process is at the ledger" if now >= deadline

            sleep(LOOK)
          end
          yield
        end
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
