# frozen_string_literal: true

module EstrelServer
  class Database
    # Where the database may have several servers, every statement outside of a transaction waits until all that was
    # written on another one is here, which takes a way there and back to the slowest of them. What is to be answered
    # as of one moment has to wait once only.
    module OnceHeard
      module_function

      # Waits, and has nothing wait within the block that these models' connections of this thread do. A connection that
      # is made anew meanwhile, or taken by another thread, waits as ever.
      #
      # @param models [Array<Class>]
      # @yieldreturn [Object]
      # @return [Object] the block's result
      def within(*models, &block)
        pools = models.map(&:connection_pool).uniq
        pools.reduce(block) { |inner, pool| -> { connected(pool, :wait_once, &inner) } }.call
      end

      # The same without waiting at all: for a transaction that fails as a whole where another server has had one of the
      # same kind meanwhile, see {IngestTurn}.
      #
      # @yieldreturn [Object]
      # @return [Object] the block's result
      def unheard(&) = connected(Record.connection_pool, :wait_not, &)

      # The connection is given back after it, unless this thread has had it before.
      def connected(pool, how)
        pool.with_connection do |connection|
          change(connection, how)
          yield
        ensure
          connection.wait_again if connection.owner.equal?(ActiveSupport::IsolatedExecutionState.context)
        end
      end
      private_class_method :connected

      def change(connection, how)
        connection.public_send(how) unless Database.new(EstrelServer.settings).beside?
      rescue *Store::AWAY
        nil # who asks it next is told so
      end
      private_class_method :change

      # What Active Record's adapter can do for it. One that is given back waits again.
      module Adapter
        WAIT = "SELECT 1"
        SET = "SET wsrep_sync_wait = "
        private_constant :WAIT, :SET

        def self.included(adapter) = adapter.set_callback(:checkin, :before, :wait_again)

        # @return [void]
        def wait_once
          execute(WAIT)
          wait_not
        end

        # @return [void]
        def wait_not
          @waits_not = true
          execute("#{SET}0")
        end

        # @return [void]
        def wait_again
          execute("#{SET}#{OF_SEVERAL.fetch(:wsrep_sync_wait)}") if @waits_not
        rescue StandardError
          disconnect!
        ensure
          @waits_not = false
        end
      end
    end
  end
end
