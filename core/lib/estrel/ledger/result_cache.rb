# frozen_string_literal: true

module Estrel
  class Ledger
    # Remembers the newest results computed from one generation, up to a size; the least recently used go first.
    #
    # Keys name the question completely (condition, as-of date, rule set), so an entry is never stale: a new generation
    # starts with an empty cache of its own.
    class ResultCache
      # Bytes kept.
      LIMIT = 500_000_000
      # What an entry that is no data frame is taken to weigh.
      SMALL = 1_000

      # @param limit [Integer] bytes kept
      def initialize(limit: LIMIT)
        @limit = limit
        @entries = {}
        @size = 0
        @mutex = Mutex.new
      end

      # @param key [Object] compared by value
      # @yieldreturn [Object] the result, computed when it is not remembered
      # @return [Object]
      def fetch(key)
        @mutex.synchronize { return (@entries[key] = @entries.delete(key)).first if @entries.key?(key) }
        result = yield
        @mutex.synchronize { keep(key, result) }
        result
      end

      # The same cache for something whose keys mean something else, such as a part of the ledger.
      #
      # @param scope [Object] compared by value
      # @return [Scope]
      def within(scope) = Scope.new(self, scope)

      # See {ResultCache#within}.
      Scope = Struct.new(:cache, :scope) do
        # @return [Object] see {ResultCache#fetch}
        def fetch(key, &) = cache.fetch([scope, key], &)

        # @return [Scope]
        def within(inner) = Scope.new(cache, [scope, inner])
      end

      private

      def keep(key, result)
        @size -= @entries.delete(key)&.last || 0
        @entries[key] = [result, weight(result)]
        @size += @entries[key].last
        @size -= @entries.shift.last.last while @size > @limit && @entries.size > 1
      end

      def weight(result) = result.respond_to?(:estimated_size) ? [result.estimated_size.to_i, SMALL].max : SMALL
    end
  end
end
