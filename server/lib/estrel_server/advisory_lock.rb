# frozen_string_literal: true

module EstrelServer
  # A lock by name in the database. It belongs to a connection, so it is freed when its holder dies, and lost when the
  # database does.
  class AdvisoryLock
    # Raised by {#check} where the lock has been lost.
    class Lost < StandardError; end

    # @param name [String]
    def initialize(name)
      @connection = Record.lease_connection
      @name = "#{@connection.current_database} #{name}"
    end

    # @yieldparam lock [AdvisoryLock]
    # @return [Boolean] whether the lock was free, and the block was run
    def hold # rubocop:disable Naming/PredicateMethod
      return false unless @connection.get_advisory_lock(@name)

      begin
        yield self
      ensure
        release
      end
      true
    end

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
