# frozen_string_literal: true

module EstrelServer
  class Database
    # A lock by name in the database. It belongs to a connection, so it is freed when its holder dies, and lost when the
    # database does.
    class AdvisoryLock
      # Raised where another holds the lock.
      class Busy < Error; end

      # Raised by {#check} where the lock has been lost.
      class Lost < StandardError; end

      # @param name [String]
      def initialize(name)
        @connection = Record.lease_connection
        @name = "#{@connection.current_database} #{name}"
      end

      # @param wait [Integer] seconds for which it is waited for
      # @yieldparam lock [Database::AdvisoryLock]
      # @return [Object] what the block returns
      # @raise [Busy] where another holds the lock
      def hold(wait: 0)
        raise Busy, "another process holds the lock \"#{@name}\"" unless @connection.get_advisory_lock(@name, wait)

        begin
          yield self
        ensure
          release
        end
      end

      # @return [Boolean] whether nobody holds it
      def free? = @connection.select_value("SELECT IS_FREE_LOCK(#{@connection.quote(@name)})") == 1

      # @return [void]
      # @raise [Lost]
      def check
        held = @connection.select_value("SELECT IS_USED_LOCK(#{@connection.quote(@name)}) = CONNECTION_ID()")
        raise Lost, "the lock \"#{@name}\" is lost" unless held == 1
      end

      private

      # Where the database is gone, so is the lock.
      def release
        @connection.release_advisory_lock(@name)
      rescue ActiveRecord::ActiveRecordError
        nil
      end
    end
  end
end
