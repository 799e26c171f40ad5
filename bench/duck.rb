# frozen_string_literal: true

require "open3"

module Bench
  # The same data in a DuckDB database of its own, on as many threads as there are cores, and the questions of
  # {DuckSQL}. Each is asked once before it is measured, so that its data is in memory.
  class Duck
    PACKAGE = File.join(__dir__, "duckdb")
    TABLES = ["CREATE OR REPLACE TABLE people AS SELECT * FROM read_parquet('%s/people.parquet')",
              "CREATE OR REPLACE TABLE had AS SELECT * FROM read_parquet('%s/had.parquet')",
              "CREATE OR REPLACE TABLE did AS SELECT * FROM read_parquet('%s/did-*.parquet') " \
              "ORDER BY profile_id, occurred_at", "CHECKPOINT"].freeze
    private_constant :PACKAGE, :TABLES

    # @param directory [String] where this database lives
    # @param repeats [Integer] how often a question is asked
    def initialize(directory, repeats = 3)
      @directory = directory
      @repeats = repeats
      @file = File.join(directory, "bench.duckdb")
    end

    # @yield with the database running
    def during
      system("npm", "ci", "--silent", "--no-audit", "--no-fund", chdir: PACKAGE, exception: true)
      FileUtils.mkdir_p(@directory)
      command = ["node", File.join(PACKAGE, "ask.mjs"), @file, Etc.nprocessors.to_s]
      Open3.popen2(*command) do |input, output, process|
        @input = input
        @output = output
        yield
        input.close
        process.value
      end
    end

    # @param generation [Estrel::Ledger::Generation]
    # @return [void]
    def load(generation)
      id = Polars.col("profile_id")
      save("people", generation.profiles.select([id.alias("id"), Polars.col("attribute:plan").alias("plan"),
                                                 (id % 5 != 0).alias("email"), (id % 10 == 3).alias("refused")]))
      save("had", generation.attribute_history.select([id, Polars.col("value")]))
      generation.catalogue.event_types.each_value do |type|
        save("did-#{type.id}", rows(generation.events(type.name), type))
      end
      TABLES.each { |statement| query(format(statement, @directory)) }
      FileUtils.rm(Dir[File.join(@directory, "*.parquet")])
    end

    # @param name [String]
    # @return [Array(Object, Float)] answer and seconds, the median of several
    def ask(name)
      statement = DuckSQL.statement(name)
      query(statement)
      found = Array.new(@repeats) { query(statement) }
      [Peers.told(found.last["rows"]), found.map { |one| one["seconds"] }.sort[@repeats / 2]]
    end

    private

    def query(statement)
      @input.puts(JSON.generate(statement))
      found = JSON.parse(@output.gets)
      raise found["error"] if found["error"]

      found
    end

    def save(name, frame) = frame.write_parquet(File.join(@directory, "#{name}.parquet"))

    def rows(events, type)
      at, received = %w[occurred_at received_at].map { |name| Polars.col(name).cast(Polars::Datetime.new("us")) }
      distance = type.properties.any? ? Polars.col("property:distance_km") : Polars.lit(nil).cast(Polars::Float64)
      events.select([Polars.lit(type.id).cast(Polars::UInt8).alias("type"), Polars.col("profile_id").cast(Polars::Int32),
                     at, received, distance.alias("distance_km")])
    end
  end
end
