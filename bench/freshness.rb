# frozen_string_literal: true

module Bench
  # Measures how long it takes until an event that the collector has acknowledged is in the ledger, and questions asked
  # before of the ledger as it then is.
  class Freshness
    BATCH = 500
    AS_OF = Date.new(2026, 6, 1)
    DISTANCE = { series: [{ event: "ride_ended" }], measure: "sum", property: "distance_km", from: "2025-06-02" }.freeze
    AUDIENCE = { "all" => Questions::AUDIENCE["all"].drop(1) }.freeze

    # @param directory [String] where this database lives; removed first
    # @param profiles [Integer]
    # @param events [Integer]
    # @param rounds [Integer]
    def initialize(directory, profiles:, events:, rounds:)
      @profiles = profiles
      @events = events
      @rounds = rounds
      @processes = Processes.new(directory)
      @installation = Installation.new(directory, "ESTREL_DATABASE_MEMORY_MB" => "4096")
    end

    # @return [void] prints what it measures
    def run
      @installation.during do
        report("filling the store") do
          @key = Filling.new(@profiles, @events) { |random| { distance_km: random.rand(120) / 10.0 } }.carry_out
        end
        report("building the ledger") { EstrelServer::LedgerBuilding::Builder.new.refresh }
        @installation.beside("collect") { @processes.during("ledger", "follow") { measure } }
      end
    end

    private

    def report(what, &)
      puts format("%<what>s: %<seconds>.1f s", what: what, seconds: Clock.timed(&).last)
    end

    def measure
      asked.each_value(&:call)
      rounds = Array.new(@rounds) { |round| round_trip(round) }
      puts format("%<rounds>d times %<batch>d events", rounds: @rounds, batch: BATCH)
      rounds.first.each_key do |what|
        times = rounds.map { |round| round.fetch(what) }.sort
        puts format("%<what>s: median %<median>.2f s, longest %<longest>.2f s",
                    what: what, median: times[@rounds / 2], longest: times.last)
      end
      puts format("own memory of who asks: %<own>d MB", own: Memory.own)
    end

    def round_trip(round)
      send_batch(round)
      target = EstrelServer::Event.maximum(:id)
      _, seconds = Clock.timed { sleep 0.05 until EstrelServer.ledger.current.facts["marks"]["events"] >= target }
      times = asked.transform_values { |question| Clock.timed(&question).last }
      sleep rand
      { "from acknowledged to in the ledger" => seconds, **times }
    end

    def asked
      ledger = EstrelServer.ledger.current
      definition = Estrel::Audience::Definition.parse(AUDIENCE, catalogue: ledger.catalogue)
      { "audience of two conditions" =>
          -> { Estrel::Audience::PartByPart.new(ledger, as_of: AS_OF).size(definition) },
        "states of a year" => -> { Analyses.answer(ledger, "states", as_of: AS_OF) },
        "thresholds" => -> { Analyses.answer(ledger, "thresholds", as_of: AS_OF) },
        "total distance by week" => -> { Analyses.answer(ledger, "trends", DISTANCE, as_of: AS_OF) },
        "activity" => -> { Analyses.answer(ledger, "activity", as_of: AS_OF) },
        "funnel of 8 steps" => -> { Analyses.answer(ledger, "funnel", { steps: Events::STEPS }, as_of: AS_OF) } }
    end

    def send_batch(round)
      time = Time.now.utc.iso8601
      events = Array.new(BATCH) do |index|
        { specversion: "1.0", id: "f#{round}-#{index}", source: "bench", type: DataSet::TYPES.keys[index % 4],
          subject: "customer:c#{1 + rand(@profiles)}", time: time, data: { distance_km: 1.5 } }
      end
      headers = { "authorization" => "Bearer #{@key}", "content-type" => "application/cloudevents-batch+json" }
      answer = Net::HTTP.post(URI("#{@installation.address}/events"), JSON.generate(events), headers)
      raise "the collector answered #{answer.code}" unless answer.is_a?(Net::HTTPOK)
    end
  end
end
