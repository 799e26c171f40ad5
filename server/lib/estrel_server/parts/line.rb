# frozen_string_literal: true

module EstrelServer
  module Parts
    # A stream of bytes each way between two processes on different machines, over NATS: what one writes into a socket
    # on its side comes out of the socket on the other. Each end has a line of the same id.
    #
    # NATS may lose messages, when a server is lost, so they are numbered and what has arrived is told; no more is sent
    # ahead of that than {AHEAD} messages. A line on which something is missing, or nothing is heard, is given up, and
    # whoever reads from its socket finds the end.
    class Line
      SIZE = Pieces::SIZE # bytes of a message
      # Messages under way at most.
      AHEAD = 16
      # Seconds between signs of life, and after which the other end is taken to be gone.
      BEAT = 1
      SILENCE = 10
      HEAD = "aQ>Q>"
      HEAD_SIZE = 17
      DATA = "d"
      ENDED = "e"
      HEARD = "h"
      private_constant :SIZE, :AHEAD, :BEAT, :HEAD, :HEAD_SIZE, :DATA, :ENDED, :HEARD

      # @param network [Network]
      # @param id [String]
      # @param socket [UNIXSocket] whose other end the process of this side has
      # @param sides [Array(Symbol, Symbol)] this one and the other
      def initialize(network, id, socket, sides)
        @network = network
        @socket = socket
        @here, @there = sides.map { |side| "line #{id} #{side}" }
        @subjects = sides.map { |side| network.subject("line", id, side) }
        @mailbox = Mailbox.new
        @lock = Monitor.new
        @moved = @lock.new_cond
        @sent = @told = @received = 0
        @early = {}
        @told_at = @heard_at = now
        @said_at = 0.0
      end

      # Begins to listen; what the other end sends from now on is not missed.
      #
      # @return [Boolean] whether there is a connection
      def open
        client = @network.client or return false
        @subscription = client.subscribe(@subjects.first) { |message| @mailbox.put(message) }
        true
      rescue NATS::IO::Error, SystemCallError, IOError
        false
      end

      # Until either side ends it, or it is given up.
      #
      # @return [void]
      def run
        sending = Thread.new { send_all }
        receive until over?
      rescue SystemCallError, IOError
        nil # the process of this side is gone
      ensure
        finish
        sending&.join
        publish(ENDED, "")
        Network.quietly { @subscription&.unsubscribe }
        @socket.close
      end

      # @return [Boolean] whether it has been ended or given up
      def over?
        @lock.synchronize do
          silent = now - @heard_at > SILENCE
          lost = @sent > @told && now - @told_at > SILENCE
          Log.warning("a line to another machine is given up") if (silent || lost) && !@over
          @over ||= silent || lost
        end
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # Wakes up whoever waits.
      def finish
        @lock.synchronize do
          @over = true
          @moved.broadcast
        end
        @mailbox.put(nil)
      end

      # Looks up now and then whether it is over.
      def send_all
        until over?
          publish(DATA, @socket.readpartial(SIZE)) if @socket.wait_readable(BEAT)
        end
      rescue SystemCallError, IOError
        finish # the process of this side is gone, or has said all
      end

      def publish(kind, bytes)
        number = @lock.synchronize do
          @moved.wait(BEAT) until @over || @sent - @told < AHEAD
          @told_at = now if @sent == @told
          @sent += 1
        end
        put(kind, number, bytes)
      end

      def put(kind, number, bytes)
        sealed = @network.seal.close(@here, [kind, number, @received].pack(HEAD) + bytes)
        Network.quietly { @network.client&.publish(@subjects.last, sealed) }
      end

      def receive
        say_what_came if now - @said_at >= BEAT
        before = @received
        @mailbox.take(BEAT).compact.each { |message| take(message) }
        say_what_came if @received > before
      end

      def say_what_came
        @said_at = now
        put(HEARD, 0, "")
      end

      def take(message)
        bytes = @network.seal.open(@there, message.data)
        return if bytes.nil? || bytes.bytesize < HEAD_SIZE

        kind, number, received = bytes.unpack(HEAD)
        heard(received)
        return if kind == HEARD || number <= @received

        @early[number] = [kind, bytes.byteslice(HEAD_SIZE..)]
        hand_on while @early.key?(@received + 1)
      end

      def heard(received)
        @lock.synchronize do
          @heard_at = now
          next if received <= @told

          @told = received
          @told_at = now
          @moved.broadcast
        end
      end

      def hand_on
        kind, bytes = @early.delete(@received += 1)
        kind == ENDED ? finish : @socket.write(bytes)
      end
    end
  end
end
