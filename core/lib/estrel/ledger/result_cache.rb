# frozen_string_literal: true

module Estrel
  class Ledger
    # Remembers the newest results computed from one generation; the least recently used go first.
    #
    # Keys name the question completely (clause, as-of date, policy), so an entry is never stale: a new generation
    # starts with an empty cache of its own.
    class ResultCache
      # @param limit [Integer] entries kept
      def initialize(limit: 400)
        @limit = limit
        @entries = {}
        @mutex = Mutex.new
      end

      # @param key [Object] compared by value
      # @yieldreturn [Object] the result, computed when it is not remembered
      # @return [Object]
      def fetch(key)
        @mutex.synchronize { return @entries[key] = @entries.delete(key) if @entries.key?(key) }
        result = yield
        @mutex.synchronize do
          @entries[key] = result
          @entries.shift while @entries.size > @limit
        end
        result
      end
    end
  end
end
