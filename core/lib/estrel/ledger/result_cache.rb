# frozen_string_literal: true

module Estrel
  class Ledger
    # Remembers the newest results computed from generations, up to a size; the least recently used go first.
    #
    # Keys name the question completely (condition, as-of date, rule set), so an entry is never stale: each generation
    # has a scope of its own, which is forgotten with it.
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
        @mutex.synchronize do
          late = late(key)
          return late[key] if late&.key?(key)
          return (@entries[key] = @entries.delete(key)).first if @entries.key?(key)
        end
        yield.tap { |result| @mutex.synchronize { keep(key, result) } }
      end

      # The same cache for something whose keys mean something else, such as a part of the ledger.
      #
      # @param scope [Object] compared by value
      # @return [Scope]
      def within(scope) = Scope.new(self, scope)

      # The same for something that will be replaced.
      #
      # @return [Scope] of its own, until {#forget}
      def until_forgotten = within(Lifetime.new)

      # Forgets it. What is computed from it from now on is remembered for as long as somebody has it.
      #
      # @param scope [Scope] of {#until_forgotten}, or within it
      # @return [void]
      def forget(scope)
        lifetime = outermost(scope.scope)
        @mutex.synchronize do
          lifetime.late = {}
          gone = @entries.keys.select { |key| outermost(key).equal?(lifetime) }
          @size -= gone.sum { |key| @entries.delete(key).last }
        end
      end

      # See {ResultCache#within}.
      Scope = Struct.new(:cache, :scope) do
        # @return [Object] see {ResultCache#fetch}
        def fetch(key, &) = cache.fetch([scope, key], &)

        # @return [Scope]
        def within(inner) = Scope.new(cache, [scope, inner])
      end

      # Of one thing; equal to no other.
      class Lifetime
        # @return [Hash, nil] what has been computed since it was forgotten
        attr_accessor :late
      end
      private_constant :Lifetime

      private

      def outermost(key)
        key = key.first while key.is_a?(Array)
        key
      end

      # What has been computed since it was forgotten, where it was.
      def late(key) = outermost(key).then { |scope| scope.late if scope.is_a?(Lifetime) }

      def keep(key, result)
        late = late(key)
        return late[key] = result if late

        @size -= @entries.delete(key)&.last || 0
        @entries[key] = [result, weight(result)]
        @size += @entries[key].last
        @size -= @entries.shift.last.last while @size > @limit && @entries.size > 1
      end

      def weight(result) = result.respond_to?(:estimated_size) ? [result.estimated_size.to_i, SMALL].max : SMALL
    end
  end
end
