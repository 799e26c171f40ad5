# frozen_string_literal: true

module Bench
  # Measures importing a file into a fresh MariaDB, and building the ledger from it.
  class Import
    # @param directory [String] where this database lives; removed first
    # @param events [Integer]
    # @param profiles [Integer]
    def initialize(directory, events:, profiles:)
      @file = File.join(directory, "events.jsonl")
      @installation = Installation.new(directory)
      @events = events
      @profiles = profiles
    end

    # @return [void] prints what it measures
    def run
      make
      puts format("file: %<events>d events, %<mb>.0f MB", events: @events, mb: File.size(@file) / 1e6)
      @installation.during do
        import("import")
        import("again, all known")
        build
      end
    end

    private

    def make
      random = Random.new(DataSet::SEED)
      File.open(@file, "w") do |file|
        @events.times do |index|
          time = Time.at(1_735_689_600 + random.rand(50_000_000)).utc.strftime("%Y-%m-%dT%H:%M:%SZ")
          file.write(%({"specversion":"1.0","id":"e#{index}","source":"bench","type":"#{DataSet::TYPES.keys[random.rand(4)]}",),
                     %("subject":"customer:#{random.rand(@profiles)}","time":"#{time}",),
                     %("data":{"distance_km":#{(random.rand * 12).round(2)},"bike":"B#{random.rand(900)}",),
                     %("night":#{random.rand < 0.2}}}\n))
        end
      end
    end

    def import(name)
      import = EstrelServer::Import.create!(kind: "events", file_name: "bench", path: @file, mapping: {})
      _, seconds = Clock.timed { EstrelServer::Importing::FileImporter.new(import).run }
      puts format("%<name>s: %<seconds>.1f s, %<rate>d events/s, %<stored>d stored, peak memory %<memory>d MB",
                  name: name, seconds: seconds, rate: @events / seconds, stored: import.stored, memory: Memory.peak)
    end

    def build
      _, seconds = Clock.timed { EstrelServer::LedgerBuilding::Builder.new.refresh(rebuild: true) }
      puts format("ledger: %<seconds>.1f s, %<rate>d events/s", seconds: seconds, rate: @events / seconds)
    end
  end
end
