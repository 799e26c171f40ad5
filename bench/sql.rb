# frozen_string_literal: true

module Bench
  # The same data in MariaDB in the shape of the store, properties as JSON, with the indexes that suit the questions,
  # and the questions in hand-written SQL.
  class SQL
    FROM = (Questions::AS_OF - 364).iso8601
    TO = Questions::AS_OF.iso8601
    AFTER = (Questions::AS_OF + 1).iso8601
    TABLES = [
      "CREATE TABLE people (id INT PRIMARY KEY, plan VARCHAR(32) NOT NULL, email BOOL NOT NULL, " \
      "refused BOOL NOT NULL, KEY (plan))",
      "CREATE TABLE had (profile_id INT NOT NULL, value VARCHAR(32) NOT NULL, KEY (value, profile_id))",
      "CREATE TABLE did (type TINYINT NOT NULL, profile_id INT NOT NULL, occurred_at DATETIME(6) NOT NULL, " \
      "received_at DATETIME(6) NOT NULL, properties JSON NOT NULL, KEY by_time (type, occurred_at, profile_id), " \
      "KEY by_person (profile_id, occurred_at))"
    ].freeze
    QUESTIONS = {
      "audience" => <<~STATEMENT,
        SELECT COUNT(*) FROM people p WHERE p.plan = 'pay as you go'
        AND p.id IN (SELECT profile_id FROM did WHERE type = 1 AND occurred_at >= '#{Questions::AS_OF - 29}'
                     AND occurred_at < '#{AFTER}' AND JSON_VALUE(properties, '$.distance_km') > 5 GROUP BY profile_id HAVING COUNT(*) >= 3)
        AND p.id NOT IN (SELECT profile_id FROM did WHERE type = 4 AND occurred_at >= '#{Questions::AS_OF - 59}'
                         AND occurred_at < '#{AFTER}')
      STATEMENT
      "states on one date" => <<~STATEMENT,
        SELECT CASE WHEN quiet >= 90 THEN 'churned' WHEN quiet >= 30 THEN 'dormant' WHEN age < 30 THEN 'new'
                    ELSE 'active' END AS state, COUNT(*)
        FROM (SELECT profile_id, DATEDIFF('#{TO}', MAX(occurred_at)) AS quiet, DATEDIFF('#{TO}', MIN(occurred_at)) AS age
              FROM did WHERE occurred_at < '#{AFTER}' GROUP BY profile_id) AS spans GROUP BY state
      STATEMENT
      "365 days of states" => <<~STATEMENT
        WITH days AS (SELECT DISTINCT profile_id, DATE(occurred_at) AS d FROM did WHERE occurred_at < '#{AFTER}'),
        runs AS (SELECT d, COALESCE(LEAD(d) OVER person, '9999-01-01') AS next_d, MIN(d) OVER (PARTITION BY profile_id) AS f
                 FROM days WINDOW person AS (PARTITION BY profile_id ORDER BY d)),
        calendar AS (SELECT DATE_ADD('#{FROM}', INTERVAL seq DAY) AS day FROM seq_0_to_364)
        SELECT CASE WHEN DATEDIFF(day, d) >= 90 THEN 'churned' WHEN DATEDIFF(day, d) >= 30 THEN 'dormant'
                    WHEN DATEDIFF(day, f) < 30 THEN 'new' ELSE 'active' END AS state, COUNT(*)
        FROM calendar JOIN runs ON d <= day AND day < next_d GROUP BY state
      STATEMENT
    }.freeze

    # @param directory [String] where this database lives
    # @param limit [Integer] seconds after which a question is stopped
    def initialize(directory, limit)
      settings = EstrelServer::Settings.from("ESTREL_VAR" => directory, "ESTREL_DATABASE_MEMORY_MB" => "4096")
      @database = EstrelServer::Database.new(settings)
      @exchange = settings.exchange_directory
      @limit = limit
    end

    # @yield with the database running
    def during(&) = @database.during(&)

    # @param generation [Estrel::Ledger::Generation]
    # @return [void]
    def load(generation)
      owner = client(@database.owner_connection)
      TABLES.each { |statement| owner.query(statement.sub("TABLE", "OR REPLACE TABLE")) }
      id = Polars.col("profile_id")
      flags = { "email" => id % 5 != 0, "refused" => id % 10 == 3 }.map { |name, is| is.cast(Polars::Int32).alias(name) }
      fill("people", generation.profiles.select([id, Polars.col("attribute:plan"), *flags]))
      fill("had", generation.attribute_history.select([id, Polars.col("value")]))
      generation.catalogue.event_types.each_value { |type| fill("did", rows(generation.events(type.name), type)) }
      query("ANALYZE TABLE people, had, did")
    end

    # @return [Boolean] whether there is a statement that could finish
    def asks?(name) = !EventsSQL::DUCK_ONLY.key?(name)

    # @return [Array(Object, Float)] answer and seconds; the answer is nil where the limit was reached
    def ask(name)
      statement = QUESTIONS[name] || LifecyclesSQL.statement(name) || EventsSQL.statement(name, :maria) ||
                  ConditionsSQL.statement(name)
      rows, seconds = Clock.timed { query("SET STATEMENT max_statement_time = #{@limit} FOR #{statement}").to_a }
      [Peers.told(rows), seconds]
    rescue Trilogy::Error => e
      raise unless e.message.include?("max_statement_time")

      [nil, @limit.to_f]
    end

    private

    def query(statement)
      @client ||= client(@database.connection)
      @client.query(statement)
    end

    def client(connection)
      Trilogy.new(**connection.slice(:socket, :username, :password, :database), read_timeout: 3600)
    end

    def rows(events, type)
      at, received = %w[occurred_at received_at].map do |name|
        Polars.col(name).cast(Polars::Datetime.new("us")).dt.strftime("%Y-%m-%d %H:%M:%S%.6f").alias(name)
      end
      if type.properties.any?
        distance = Polars.concat_str([Polars.lit("{\"distance_km\":"), Polars.col("property:distance_km").cast(Polars::String),
                                      Polars.lit("}")])
      end
      events.select([Polars.lit(type.id.to_s).alias("type"), Polars.col("profile_id"), at, received,
                     (distance || Polars.lit("{}")).alias("properties")])
    end

    def fill(table, frame)
      path = File.join(@exchange, "bench.tsv")
      line = Polars.concat_str(frame.columns.map { |name| Polars.col(name).cast(Polars::String) }, sep: "\t")
      (0...frame.height).step(1_000_000) do |from|
        File.write(path, "#{frame.slice(from, 1_000_000).select([line.str.concat("\n")]).item}\n")
        query("LOAD DATA INFILE '#{path}' INTO TABLE #{table} CHARACTER SET utf8mb4 FIELDS TERMINATED BY '\\t'")
        FileUtils.rm_f(path)
      end
    end
  end
end
