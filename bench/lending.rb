# frozen_string_literal: true

require_relative "../server/spec/support/nats_server"
require_relative "../server/spec/support/database_front"

module Bench
  # Measures what a ledger of everybody, and a long tail, takes on the machine that builds it, alone and with another
  # that writes some of the pieces: time, and processor time of each. Each has one process for it, and both are this
  # machine.
  class Lending
    PIECES = 8
    # To every tenth person a tenth more.
    TOUCHED = "#{Bases::MORE.chomp} AND profile_id % 10 = 0".freeze
    FORGOTTEN = "DELETE FROM events WHERE event_key LIKE 'later%'"
    private_constant :PIECES, :TOUCHED, :FORGOTTEN

    # @param directory [String] where this database lives; removed first
    # @param profiles [Integer]
    # @param events [Integer]
    def initialize(directory, profiles:, events:)
      @profiles = profiles
      @events = events
      @other = File.join(directory, "other")
      @installation = Installation.new(directory, "ESTREL_DATABASE_MEMORY_MB" => "4096")
    end

    # @return [void] prints what it measures
    def run
      @installation.during do
        Filling.new(@profiles, @events) { |random| { distance_km: random.rand(120) / 10.0 } }.carry_out
        in_pieces
        both("alone")
        beside { both("with another") }
      end
    end

    private

    # As if so many people were as many as a piece holds, and as if every tail were long.
    def in_pieces
      replace(EstrelServer::LedgerBuilding::Pieces, :PEOPLE, @profiles / PIECES)
      replace(EstrelServer::LedgerBuilding::PieceProcesses, :WORTH_FOR_TAIL, 0)
    end

    def replace(owner, name, value)
      owner.send(:remove_const, name)
      owner.const_set(name, value)
    end

    def both(how)
      report("from nothing, #{how}") { builder.build(rebuild: true) }
      arrive if @pid
      execute(TOUCHED)
      report("a tail about a tenth, #{how}") { builder.build }
      execute(FORGOTTEN)
      execute(Bases::MORE)
      report("with a tenth more, #{how}") { builder.prepare }
      execute(FORGOTTEN)
    end

    def execute(statement) = EstrelServer::Record.connection.execute(statement)

    def settings = @settings ||= EstrelServer::Settings.from(ENV.to_h.merge(shared))

    def shared
      network = { "ESTREL_NATS_URL" => @nats.url, "ESTREL_SECRETS_KEY" => "bench", "ESTREL_PARTS" => "2" } if @nats
      { "ESTREL_ANSWERING_PROCESSES" => "1", **network.to_h }
    end

    def ledger = Estrel::Ledger.new(settings.ledger_directory)

    def builder = EstrelServer::LedgerBuilding::Builder.new(ledger, settings)

    def beside
      @nats = NatsServer.new
      @settings = nil
      front = DatabaseFront.new
      there = { **shared, "ESTREL_VAR" => @other, "ESTREL_DATABASE_URL" => front.url }
      @pid = Process.spawn(there, Processes::ESTREL, "ledger", "mirror")
      @publisher = EstrelServer::Parts::Publisher.new(EstrelServer::Parts::Network.of(settings), settings)
      sleep 5
      yield
    ensure
      Process.kill("TERM", @pid)
      Process.wait(@pid)
      front.stop
      @nats.stop
    end

    def arrive
      there = Estrel::Ledger.new(File.join(@other, "ledger"))
      @publisher.publish { sleep 0.1 until there.current_manifest_or_nil == ledger.current_manifest_or_nil }
    end

    def report(what, &)
      before = [here, there]
      _, seconds = Clock.timed(&)
      sleep 3 # until what has been lent has ended
      puts format("%<what>s: %<seconds>.1f s; %<here>.1f s of processors here, %<there>.1f s there",
                  what: what, seconds: seconds, here: here - before[0], there: there - before[1])
    end

    def here = Process.times.to_a.sum

    # With that of its processes which have ended; in hundredths.
    def there = @pid ? File.read("/proc/#{@pid}/stat").split[13..16].sum(&:to_i) / 100.0 : 0.0
  end
end
