# frozen_string_literal: true

require "socket"

module EstrelServer
  module LedgerBuilding
    # Several processes that build one ledger at the same time, each of which reads the store: see {PieceProcess}.
    # They all read the same, since only those are made use of whose snapshots have the same marks.
    class PieceProcesses
      # Events from which on it is worth starting them.
      WORTH = 2_000_000
      ESTREL = File.join(ROOT, "bin/estrel")
      # Seconds in which one has to start.
      STARTING = 30
      # How often all open their snapshots, until nothing comes in between.
      TRIES = 20
      private_constant :ESTREL, :STARTING, :TRIES

      # @param count [Integer]
      # @param settings [Settings]
      # @yieldparam processes [PieceProcesses]
      # @return [Object] the block's result
      def self.during(count, settings)
        processes = new(count, settings)
        yield processes
      ensure
        processes&.stop
      end

      # @param count [Integer]
      # @param settings [Settings]
      def initialize(count, settings)
        @workspace = settings.workspace
        @pids = []
        started = Array.new(count) { start }
        deadline = Process.clock_gettime(Process::CLOCK_MONOTONIC) + STARTING
        @open = started.select do |io|
          left = deadline - Process.clock_gettime(Process::CLOCK_MONOTONIC)
          io.wait_readable([left, 0].max) && Framing.read(io) == :ready
        end
        (started - @open).each(&:close)
      end

      # Has all of them open a snapshot of the store that holds the same as one here.
      #
      # @yieldreturn [Hash{String => Integer}] marks of a snapshot that has just been opened here
      # @return [void]
      def agree
        told = []
        TRIES.times do
          @open.each { |io| tell(io, :open) }
          marks = yield
          told = @open.map { |io| Framing.read(io) == marks }
          break if told.all?
        end
        @open, others = @open.zip(told).partition(&:last).map { |some| some.map(&:first) }
        others.each(&:close)
      end

      # Has events read. What fails, or whose process ends, is left out, as with {#write}.
      #
      # @param reading [EventReading]
      # @param some [Array<Array>] see {EventReading#read}
      # @return [Hash{Integer => EventReading::Found}] by place in these
      def read(reading, some) = done(some.map { |ranges| [:read, reading, ranges] })

      # Has pieces written.
      #
      # @param copy [PieceCopy]
      # @param ranges [Array<Range<Integer>>] of profile ids
      # @return [Hash{Integer => Array}] by piece, see {PieceProcess#write}
      def write(copy, ranges) = done(ranges.each_with_index.map { |range, piece| [:write, copy, range, piece] })

      # @return [void]
      def stop
        @open.each(&:close)
        @pids.each do |pid|
          Process.kill("TERM", pid)
          Process.wait(pid)
        end
      end

      private

      def start
        here, there = UNIXSocket.pair
        environment = @workspace == Workspaces::FIRST ? {} : { "ESTREL_WORKSPACE" => @workspace }
        @pids << Process.spawn(environment, ESTREL, "ledger", "piece", in: there)
        there.close
        here
      end

      # Gives each another task as soon as it is done with one.
      def done(tasks)
        left = tasks.each_with_index.to_a
        found = {}
        busy = @open.to_h { |io| [io, give(io, left)] }.compact
        until busy.empty?
          readable, = IO.select(busy.keys)
          readable.each do |io|
            place = busy.delete(io)
            found[place] = Framing.read(io)
            next @open.delete(io).close if found[place].nil?

            place = give(io, left) and busy[io] = place
          end
        end
        found.compact
      end

      # @return [Integer, nil] the place of the task; nil where there is none left
      def give(io, left)
        task, place = left.shift
        place if place && tell(io, *task)
      end

      # @return [Boolean] whether it is still there
      def tell(io, *words)
        Framing.write(io, words)
        true
      rescue SystemCallError
        false
      end
    end
  end
end
