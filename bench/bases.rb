# frozen_string_literal: true

module Bench
  # Measures how long a ledger of everybody takes to be written, from nothing and when a tenth more has come, and in how
  # much memory, by the number of pieces it lies in.
  class Bases
    PIECES = [1, 4, 16].freeze
    MORE = <<~SQL
      INSERT INTO events (event_type_id, profile_id, source_id, event_key, occurred_at, received_at, properties, device)
      SELECT event_type_id, profile_id, source_id, CONCAT('later ', event_key), occurred_at + INTERVAL 1 SECOND,
             received_at, properties, device FROM events WHERE id % 10 = 0
    SQL
    # Seconds between looks how much memory is taken.
    LOOK = 0.05

    # @param directory [String] where this database lives; removed first
    # @param profiles [Integer]
    # @param events [Integer]
    def initialize(directory, profiles:, events:)
      @profiles = profiles
      @events = events
      @installation = Installation.new(directory, "ESTREL_DATABASE_MEMORY_MB" => "4096")
    end

    # @return [void] prints what it measures
    def run
      @installation.during do
        Filling.new(@profiles, @events) { |random| { distance_km: random.rand(120) / 10.0 } }.carry_out
        PIECES.each do |pieces|
          report("from nothing, in #{pieces}", pieces) { builder.build(rebuild: true) }
          execute(MORE)
          report("with a tenth more, in #{pieces}", pieces) { builder.prepare }
          execute("DELETE FROM events WHERE event_key LIKE 'later%'")
        end
      end
    end

    private

    def execute(statement) = EstrelServer::Record.connection.execute(statement)

    def builder = EstrelServer::LedgerBuilding::Builder.new

    def report(what, pieces, &)
      GC.start
      before = taken
      peak = before
      looking = Thread.new { loop { sleep(LOOK) && peak = [peak, taken].max } }
      _, seconds = Clock.timed { in_pieces(pieces, &) }
      puts format("%<what>s: %<seconds>.1f s, %<memory>d MB", what: what, seconds: seconds, memory: peak - before)
    ensure
      looking&.kill
    end

    def taken = Memory.own + Memory.of_children

    # As if so many people were as many as a piece holds.
    def in_pieces(count)
      EstrelServer::LedgerBuilding::Pieces.send(:remove_const, :PEOPLE)
      EstrelServer::LedgerBuilding::Pieces.const_set(:PEOPLE, @profiles / count)
      yield
    end
  end
end
