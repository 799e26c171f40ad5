# frozen_string_literal: true

require "socket"

module EstrelServer
  module Parts
    # A process of another machine that writes pieces of the ledger for this one, see {Lender}. It reads the people of a
    # piece from the store by itself; their events since the last base, which are read once for all pieces, go along
    # with the task, and the files that it has written come back.
    class Borrowed < LedgerBuilding::Helper
      # Seconds for which offers are taken, and for which the next answer is waited for.
      OFFERING = 0.5
      PATIENCE = 5
      # Seconds for which a connection is waited for.
      CONNECTING = 2
      private_constant :OFFERING, :PATIENCE, :CONNECTING

      # @param settings [Settings]
      # @param count [Integer] how many at most
      # @return [Array<Borrowed>] from as many machines as lend some
      def self.all(settings, count)
        network = count.positive? && Network.of(settings) or return []
        (CONNECTING * 20).times { network.client ? break : sleep(0.05) }
        taken = offers(network, settings).flat_map { |offer| Array.new(offer["processes"]) { |nth| [nth, offer] } }
        taken.sort_by(&:first).first(count).filter_map { |_, offer| from(network, settings, offer) }
      end

      def self.offers(network, settings)
        workspace = settings.workspace
        sealed = network.seal.close("lenders", workspace)
        network.ask_all(network.subject("lenders"), sealed, seconds: OFFERING).filter_map do |told|
          offer = network.seal.open("offer #{workspace}", told) and JSON.parse(offer)
        end
      end

      def self.from(network, settings, offer)
        id = SecureRandom.alphanumeric(Pieces::NAME)
        here, there = UNIXSocket.pair
        line = Line.new(network, id, there, %i[building lent])
        return unless line.open

        Thread.new { line.run }
        return here.close unless lent?(network, settings, offer, id)

        held = Estrel::Ledger::Held.new(*offer.values_at("held", "parts"))
        subject = network.subject("lender", offer["name"], settings.workspace)
        new(here, held, network, subject)
      end

      def self.lent?(network, settings, offer, id)
        sealed = network.seal.close("lend", "#{id} #{settings.workspace}")
        told = network.ask_each(network.subject("lender", offer["name"]), [sealed], seconds: PATIENCE).first
        told && network.seal.open("lent #{id}", told)
      end
      private_class_method :offers, :from, :lent?

      # @param socket [UNIXSocket] by which it is told what to do
      # @param held [Estrel::Ledger::Held] the pieces it writes
      # @param network [Network]
      # @param subject [String] by which its machine gives files
      def initialize(socket, held, network, subject)
        super(socket)
        @held = held
        @network = network
        @subject = subject
      end

      # See {LedgerBuilding::Helper#reads?}.
      def reads? = false

      # See {LedgerBuilding::Helper#does?}.
      def does?(place, count) = @held.piece?(place, count)

      # See {LedgerBuilding::Helper#write}.
      def write(copy, range, piece)
        noted, files, written = super(copy.with_events_of(piece), range, piece)
        return if noted.nil?

        copy.writer.fetch(files) do |pieces|
          Files.ask(@network, @subject, pieces.map { |one| one.join(" ") }, seconds: PATIENCE)
        end
        [noted, files, written]
      rescue Estrel::Error => e
        Log.error("a piece of the ledger that another machine has written does not arrive", e)
        nil
      ensure
        GC.start # Ruby does not see the memory behind the events that went along
      end
    end
  end
end
