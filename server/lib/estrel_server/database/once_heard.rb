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
      def within(*models)
        connections = Database.new(EstrelServer.settings).beside? ? [] : heard(models)
        yield
      ensure
        connections&.each { |connection| connection.wait_again if mine?(connection) }
      end

      def heard(models)
        models.map(&:connection).uniq.each(&:wait_once)
      rescue *Store::AWAY
        [] # who asks it next is told so
      end
      private_class_method :heard

      def mine?(connection) = connection.owner.equal?(ActiveSupport::IsolatedExecutionState.context)
      private_class_method :mine?

      # What Active Record's adapter can do for it. One that is given back waits again.
      module Adapter
        WAIT = "SELECT 1"
        SET = "SET wsrep_sync_wait = "
        private_constant :WAIT, :SET

        def self.included(adapter) = adapter.set_callback(:checkin, :before, :wait_again)

        # @return [void]
        def wait_once
          execute(WAIT)
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
