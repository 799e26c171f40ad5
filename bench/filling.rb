# frozen_string_literal: true

module Bench
  # Fills an empty store with made-up events.
  class Filling
    CHUNK = 1_000_000
    private_constant :CHUNK

    # @param profiles [Integer]
    # @param events [Integer]
    # @yieldparam random [Random]
    # @yieldreturn [Hash{Symbol => Numeric, String}] properties of an event, of the same types always
    def initialize(profiles, events, &properties)
      @profiles = profiles
      @events = events
      @properties = properties
    end

    # @return [String] a key by which the source of the events sends
    def carry_out
      source = EstrelServer::Source.create!(name: "bench")
      kind = EstrelServer::IdentifierKind.ids.fetch("customer")
      execute("INSERT INTO profiles (id, created_at) SELECT seq, NOW(6) FROM seq_1_to_#{@profiles}")
      execute("INSERT INTO identifiers (profile_id, identifier_kind_id, value, created_at) " \
              "SELECT seq, #{kind}, CONCAT('c', seq), NOW(6) FROM seq_1_to_#{@profiles}")
      fill(types, source)
      EstrelServer::SendingKey.issue(source).last
    end

    private

    def execute(statement) = EstrelServer::Record.connection.execute(statement)

    def types
      example = @properties.call(Random.new(1))
      DataSet::TYPES.keys.map do |name|
        EstrelServer::EventType.create!(name: name).tap do |type|
          example.each do |property, value|
            EstrelServer::EventProperty.create!(event_type: type, name: property,
                                                value_type: value.is_a?(String) ? "text" : "number")
          end
        end
      end
    end

    # In the order of profiles, which the database takes in fastest.
    def fill(types, source)
      path = File.join(EstrelServer.settings.exchange_directory, "fill.tsv")
      execute("SET SESSION foreign_key_checks = 0")
      (0...@events).step(CHUNK) do |from|
        write(path, from, types, source)
        execute("LOAD DATA INFILE '#{path}' INTO TABLE events FIELDS TERMINATED BY '\\t' ESCAPED BY '' " \
                "(#{EstrelServer::Importing::EventStore::COLUMNS})")
        FileUtils.rm_f(path)
      end
    ensure
      execute("SET SESSION foreign_key_checks = 1")
    end

    def write(path, from, types, source)
      random = Random.new(from)
      File.open(path, "w") do |file|
        [CHUNK, @events - from].min.times do |index|
          serial = from + index
          at = Time.at(1_735_689_600 + random.rand(45_000_000)).utc.strftime("%Y-%m-%d %H:%M:%S")
          row = [types[random.rand(4)].id, 1 + (serial * @profiles / @events), source.id, "e#{serial}", at, at,
                 JSON.generate(@properties.call(random)), (serial * @profiles / @events * 2) + random.rand(2)]
          file.puts(row.join("\t"))
        end
      end
    end
  end
end
