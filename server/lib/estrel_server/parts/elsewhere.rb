# frozen_string_literal: true

module EstrelServer
  module Parts
    # Puts questions to parts of the ledger to whoever holds them, on whatever machine. What nobody answers is left to
    # whoever asks, so no answer is ever short.
    class Elsewhere
      # Seconds for which it is remembered who there is, and for which they may say so.
      KNOWN = 5
      CALLING = 0.15
      LOCK = Mutex.new
      private_constant :KNOWN, :CALLING, :LOCK

      # @param settings [Settings]
      # @return [Elsewhere, nil] that of this process; nil where there are no other machines
      def self.of(settings = EstrelServer.settings)
        network = Network.of(settings) or return
        LOCK.synchronize do
          @of = nil unless @network.equal?(network)
          @network = network
          @of ||= new(network, settings.parts)
        end
      end

      # @param network [Network]
      # @param parts [Integer] among whose holders the parts of a question are shared out, see {Settings#parts}
      def initialize(network, parts)
        @network = network
        @parts = parts
        @paces = Paces.new
      end

      # @return [Paces]
      attr_reader :paces
      # @return [Network]
      attr_reader :network

      # Asks all parts at once.
      #
      # @param task [String] what a holder reads, see {Answers::PartProcess}
      # @param places [Array<Integer>] by what each part is shared out, see {Answers::Pool}
      # @param kind [Object] of question; those of a kind take about as long
      # @yieldparam answered [Integer] how many parts have been answered; often, and may raise to give the question up
      # @return [Hash{Integer => Object}] what was answered, by part
      # @raise [Estrel::Error] what a part has said against the question
      def ask(task, places, kind, &)
        client = @network.client
        return {} if client.nil? || task.bytesize > client.server_info[:max_payload].to_i / 2

        Call.new(self, client, task, kind).run(places, &)
      rescue NATS::IO::Error, SystemCallError, IOError => e
        Log.warning("parts could not be asked elsewhere", error: e.class.name)
        {}
      end

      # @param place [Integer] of a part of a question
      # @return [Integer] by which number it is held
      def held_as(place) = place % @parts

      # Who holds a part, asked for by NATS's protocol for services where it is not known.
      #
      # @param index [Integer] of the part
      # @param place [Integer] of the part
      # @return [Array<String>] names, of any two parts in another order
      def holders(index, place)
        call if @called.nil? || now - @called > KNOWN
        found = @holders.select { |_, parts| parts.include?(held_as(place)) }.keys
        found.rotate(index)
      end

      # @return [Integer] how many processes hold parts
      def size
        call if @called.nil? || now - @called > KNOWN
        @holders.size
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def call
        @holders = @network.ask_all("$SRV.INFO.#{Holder.service(@network)}", "", seconds: CALLING).filter_map do |text|
          told = JSON.parse(text)["metadata"]
          [told.fetch("holder"), told.fetch("parts").split(",").map(&:to_i)]
        rescue JSON::ParserError, KeyError, NoMethodError
          nil # somebody else's
        end.sort.to_h
        @called = now
      end
    end
  end
end
