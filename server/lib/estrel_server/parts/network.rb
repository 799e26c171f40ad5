# frozen_string_literal: true

require "nats/client"

module EstrelServer
  module Parts
    # The connection of a process to the others of an installation, on this machine and on others, by NATS: to the first
    # of its servers that answers. It is made beside everything else, and anew where it is lost; until there is one,
    # {#client} is nil and each does without.
    class Network
      # Seconds between attempts to connect.
      PAUSE = 1
      OPTIONS = { reconnect: true, max_reconnect_attempts: -1, reconnect_time_wait: 0.5, connect_timeout: 1,
                  ping_interval: 2, max_outstanding_pings: 3, dont_randomize_servers: true }.freeze
      private_constant :PAUSE, :OPTIONS

      LOCK = Mutex.new
      private_constant :LOCK

      # @param settings [Settings]
      # @return [Network, nil] that of this process; nil where it has none
      def self.of(settings = EstrelServer.settings)
        return if settings.nats_urls.empty?

        LOCK.synchronize do
          @of = nil unless @process == Process.pid # what has been forked makes its own
          @process = Process.pid
          @of ||= new(settings)
        end
      end

      # @return [Seal]
      attr_reader :seal

      # @param settings [Settings]
      def initialize(settings)
        @settings = settings
        @seal = Seal.new(settings)
        @made = []
        @lock = Mutex.new
        @connecting = Thread.new { connect }
      end

      # @param words [Array<#to_s>] without points
      # @return [String] a subject of this installation
      def subject(*words) = ["estrel", seal.name, *words].join(".")

      # @return [NATS::IO::Client, nil] nil while there is no connection
      def client = (@client if @client&.connected?)

      # Has the block make its subscriptions as soon as there is a connection; they outlast it.
      #
      # @yieldparam client [NATS::IO::Client]
      # @return [void]
      def connected(&made)
        @lock.synchronize do
          @client ? yield(@client) : @made << made
        end
      end

      # Asks for several things at once.
      #
      # @param subject [String]
      # @param messages [Array<String>]
      # @param seconds [Numeric] for which the next answer is waited for
      # @return [Array<String, nil>] in the same order; nil where there is no answer
      def ask_each(subject, messages, seconds:)
        found = put(subject, *messages) do |mailbox|
          answers = []
          until answers.size == messages.size || (arrived = mailbox.take(seconds)).empty?
            answers.concat(arrived)
          end
          answers.reject { |answer| Network.nobody?(answer) }
        end
        by_number = found.to_a.to_h { |answer| [answer.subject.rpartition(".").last.to_i, answer.data] }
        messages.each_index.map { |index| by_number[index] }
      end

      # Asks everybody.
      #
      # @param subject [String]
      # @param bytes [String]
      # @param seconds [Numeric] for which answers are taken
      # @return [Array<String>]
      def ask_all(subject, bytes, seconds:)
        deadline = now + seconds
        answers = []
        put(subject, bytes) do |mailbox|
          while (left = deadline - now).positive?
            answers.concat(mailbox.take(left))
          end
        end
        answers.reject { |answer| Network.nobody?(answer) }.map(&:data)
      end

      # @return [void]
      def close
        @connecting.kill
        Network.quietly { @client&.close }
      end

      # @param message [NATS::Msg]
      # @return [Boolean] whether NATS says that nobody is there to be asked
      def self.nobody?(message) = message.header&.fetch("Status", nil) == "503"

      # Does what is of no use any more where there is no connection.
      #
      # @return [void]
      def self.quietly
        yield
        nil
      rescue NATS::IO::Error, SystemCallError, IOError
        nil
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # @yieldparam mailbox [Mailbox] for what is answered, to subjects that end with the number of the message
      def put(subject, *messages)
        client = self.client or return
        mailbox = Mailbox.new
        inbox = client.new_inbox
        subscription = client.subscribe("#{inbox}.*") { |message| mailbox.put(message) }
        messages.each_with_index { |bytes, index| client.publish(subject, bytes, "#{inbox}.#{index}") }
        yield(mailbox)
      rescue NATS::IO::Error, SystemCallError, IOError
        nil
      ensure
        Network.quietly { subscription&.unsubscribe }
      end

      def connect
        client = NATS.connect(@settings.nats_urls.join(","), **OPTIONS, **tls)
        client.on_disconnect { Log.warning("the connection between the parts is lost") }
        client.on_reconnect { Log.warning("the connection between the parts is back") }
        @lock.synchronize do
          @client = client
          @made.each { |made| made.call(client) }
        end
      rescue NATS::IO::Error, SystemCallError, SocketError, OpenSSL::SSL::SSLError, IOError => e
        Log.warning("no connection between the parts", error: e.class.name) unless @told
        @told = true
        sleep(PAUSE)
        retry
      end

      def tls
        return {} unless @settings.nats_ca

        context = OpenSSL::SSL::SSLContext.new
        context.set_params(ca_file: @settings.nats_ca)
        { tls: { context: context } }
      end
    end
  end
end
