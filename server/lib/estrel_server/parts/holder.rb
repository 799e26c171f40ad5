# frozen_string_literal: true

module EstrelServer
  module Parts
    # The end at which questions to parts of the ledger arrive from other machines: those to the parts that this process
    # holds, which it shares with whoever holds them too, and those sent to it by name. Questions wait until they are
    # taken, one after the other; one that is withdrawn meanwhile is left out.
    class Holder
      # Questions withdrawn that are remembered.
      WITHDRAWN = 1_000
      private_constant :WITHDRAWN

      # A question to one part: which it is, and what to answer by.
      Asked = Struct.new(:id, :part, :task, :reply)
      private_constant :Asked

      # @param network [Network]
      # @param settings [Settings]
      # @return [String] the service by whose name holders are found
      def self.service(network) = "estrel-parts-#{network.seal.name}"

      # @return [IO] can be read while there is something to be taken
      attr_reader :io

      # @param network [Network]
      # @param parts [Array<Integer>] of the parts that each question is put to, those held, counted around
      def initialize(network, parts)
        @network = network
        @parts = parts
        @name = SecureRandom.alphanumeric(Pieces::NAME)
        @io, @bell = IO.pipe
        @lock = Mutex.new
        @waiting = []
        @withdrawn = []
        @network.connected { |client| listen(client) }
      end

      # Answers the question that has waited longest, if there is any left.
      #
      # @yieldparam part [Integer]
      # @yieldparam task [String]
      # @yieldparam withdrawn [#call] tells whether nobody waits for the answer any more
      # @yieldreturn [Object] the answer
      # @return [void]
      def take
        @io.read_nonblock(1)
        asked = @lock.synchronize { @waiting.first } or return
        answer = yield(asked.part, asked.task, -> { withdrawn?(asked) }) unless withdrawn?(asked)
        send_back(asked, answer) unless withdrawn?(asked)
      rescue IO::WaitReadable
        nil
      ensure
        @lock.synchronize { @waiting.delete(asked) } if asked
      end

      private

      def listen(client)
        service = client.services.add(name: Holder.service(@network), version: "1.0.0", queue: "holders",
                                      description: "answers questions to parts of a ledger",
                                      metadata: { "holder" => @name, "parts" => @parts.join(",") })
        @parts.each do |part|
          service.endpoints.add("part-#{part}", subject: @network.subject("part", part)) { |message| received(message) }
        end
        client.subscribe(@network.subject("holder", @name)) { |message| received(message) }
        client.subscribe(@network.subject("withdrawn")) { |message| withdraw(message) }
      end

      def received(message)
        bytes = @network.seal.open("ask", message.data) or return
        asked = Asked.new(*Estrel::Transit.load(bytes), message.reply)
        return unless noted(asked)

        publish(asked.reply, Pieces.taken(@name, @network.seal.close("taken #{asked.id} #{asked.part}", "")))
        @bell.write("!")
      end

      # @return [Boolean] whether it is not at it already
      def noted(asked)
        @lock.synchronize do
          next false if @waiting.any? { |other| other.id == asked.id && other.part == asked.part }

          @waiting << asked
          true
        end
      end

      def withdraw(message)
        id = @network.seal.open("withdraw", message.data) or return
        @lock.synchronize { @withdrawn.unshift(id).slice!(WITHDRAWN..) }
      end

      def withdrawn?(asked) = @lock.synchronize { @withdrawn.include?(asked.id) }

      def send_back(asked, answer)
        sealed = @network.seal.close("answer #{asked.id} #{asked.part}", Estrel::Transit.dump(answer))
        Pieces.cut(@name, sealed).each { |piece| publish(asked.reply, piece) }
      end

      def publish(subject, bytes) = Network.quietly { @network.client&.publish(subject, bytes) }
    end
  end
end
