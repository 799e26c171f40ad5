# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Several processes that build one ledger at the same time, each of which reads the store: see {PieceProcess}.
    # They all read the same, since only those are made use of whose snapshots have the same marks.
    class PieceProcesses
      # Events from which on it is worth starting them, and from which on it is for a tail, which somebody waits for.
      WORTH = 1_000_000
      WORTH_FOR_TAIL = 2_000_000
      # Seconds in which one has to start.
      STARTING = 30
      # How often all open their snapshots, until nothing comes in between.
      TRIES = 20
      private_constant :STARTING, :TRIES

      # @param count [Integer] of this machine
      # @param more [Integer] of others, at most
      # @param settings [Settings]
      # @yieldparam processes [PieceProcesses]
      # @return [Object] the block's result
      def self.during(count, more, settings)
        processes = new(count, more, settings)
        yield processes
      ensure
        processes&.stop
      end

      # See {during}.
      def initialize(count, more, settings)
        @all = Array.new(count) { Helper.start(settings) }
        @all.concat(Parts::Borrowed.all(settings, more))
        deadline = now + STARTING
        @all.each { |helper| do_without(helper) unless helper.ready?(deadline - now) }
      end

      # Has all of them open a snapshot of the store that holds the same as one here.
      #
      # @yieldreturn [Hash{String => Integer}] marks of a snapshot that has just been opened here
      # @return [void]
      def agree
        agreed = []
        TRIES.times do
          helpers.each(&:open)
          marks = yield
          agreed = helpers.select { |helper| helper.opened?(marks) }
          break if agreed == helpers
        end
        (helpers - agreed).each(&:give_up)
      end

      # Has events read. What fails, or whose process ends, is left out, as with {#write}.
      #
      # @param reading [EventReading]
      # @param some [Array<Array>] see {EventReading#read}
      # @return [Hash{Integer => EventReading::Found}] by place in these
      def read(reading, some)
        share(some.each_index, helpers.select(&:reads?)) { |helper, place| helper.read(reading, some[place]) }
      end

      # Has pieces written.
      #
      # @param copy [PieceCopy]
      # @param ranges [Array<Range<Integer>>] of profile ids
      # @return [Hash{Integer => Array}] by piece, see {PieceProcess#write}
      def write(copy, ranges)
        share(ranges.each_index, helpers) { |helper, piece| helper.write(copy, ranges[piece], piece) }
      end

      # @return [void]
      def stop = @all.each(&:stop)

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def helpers = @all.select(&:there?)

      def do_without(helper)
        helper.give_up
        Log.warning("a process that was to write pieces of the ledger has not started")
      end

      # Gives each another task as soon as it is done with one.
      def share(tasks, helpers)
        left = Tasks.new(tasks, helpers)
        found = {}
        working = helpers.map do |helper|
          Workspaces.thread(told: true) do
            while (task = left.take(helper))
              done = yield(helper, task) or break
              found[task] = done
            end
          end
        end
        working.each(&:join)
        found
      end

      # What is left to be done, each by one of those who can.
      class Tasks
        def initialize(tasks, helpers)
          @left = tasks.to_h { |task| [task, helpers.select { |helper| helper.does?(task, tasks.size) }] }
          @lock = Mutex.new
        end

        # Whoever can do much leaves to the others what they can do.
        def take(helper)
          @lock.synchronize do
            task, = @left.select { |_, able| able.include?(helper) }.min_by { |_, able| able.size }
            @left.delete(task)
            task
          end
        end
      end
      private_constant :Tasks
    end
  end
end
