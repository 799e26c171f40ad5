# frozen_string_literal: true

module EstrelServer
  # Every setting of the application, from environment variables. Frozen; docs/settings.md lists them.
  class Settings
    # Raised at start for a setting that makes no sense.
    class Invalid < Error; end

    # @return [String] directory of everything Estrel keeps on disk
    attr_reader :var
    # @return [String] address to listen on
    attr_reader :bind
    # @return [Integer] port of the web server
    attr_reader :port
    # @return [Integer] web server processes
    attr_reader :web_processes
    # @return [Integer] port of the collector
    attr_reader :collector_port
    # @return [Integer] memory of the database's buffer pool, MiB
    attr_reader :database_memory_mb
    # @return [Integer] parts of the ledger that are asked one after the other
    attr_reader :shards
    # @return [Integer] seconds one question may take
    attr_reader :question_seconds
    # @return [Integer] memory a web process may hold beyond mapped files while it answers a question, MB
    attr_reader :question_memory_mb
    # @return [String, nil] address of a MariaDB elsewhere; nil for Estrel's own
    attr_reader :database_url
    # @return [String, nil] what secrets are encrypted with; nil for a key that is made and kept under `var`
    attr_reader :secrets_key
    # @return [Array<String>] hosts inside the network, maybe with a port, that may be pushed to
    attr_reader :push_hosts
    # @return [Integer] the longest pause after the first failed attempt of a push, milliseconds
    attr_reader :push_pause_ms
    # @return [Boolean] whether the messaging stand-in runs on this machine
    attr_reader :stand_in
    # @return [Integer] its port
    attr_reader :stand_in_port
    # @return [Boolean] whether an empty workspace is filled with the demo
    attr_reader :demo

    # @param env [Hash{String => String}]
    # @return [Settings]
    # @raise [Invalid] naming the variable
    def self.from(env) = new(env)

    def initialize(env)
      @env = env
      @var = File.expand_path(env.fetch("ESTREL_VAR", File.join(ROOT, "var")))
      @bind = env.fetch("ESTREL_BIND", "127.0.0.1")
      @port = integer("ESTREL_PORT", 4270, 1..65_535)
      @web_processes = integer("ESTREL_WEB_PROCESSES", 2, 1..64)
      @collector_port = integer("ESTREL_COLLECTOR_PORT", 4271, 1..65_535)
      @database_memory_mb = integer("ESTREL_DATABASE_MEMORY_MB", 1024, 64..1_000_000)
      @shards = integer("ESTREL_SHARDS", 1, 1..1024)
      @question_seconds = integer("ESTREL_QUESTION_SECONDS", 30, 1..3600)
      @question_memory_mb = integer("ESTREL_QUESTION_MEMORY_MB", 4000, 100..1_000_000)
      @database_url = env.fetch("ESTREL_DATABASE_URL", nil)
      @secrets_key = env.fetch("ESTREL_SECRETS_KEY", nil)
      @push_hosts = env.fetch("ESTREL_PUSH_HOSTS", "").split(",").map { |host| host.strip.downcase }.freeze
      @push_pause_ms = integer("ESTREL_PUSH_PAUSE_MS", 1000, 1..600_000)
      @stand_in = on?("ESTREL_STAND_IN")
      @stand_in_port = integer("ESTREL_STAND_IN_PORT", 4272, 1..65_535)
      @demo = on?("ESTREL_DEMO")
      @env = nil
      freeze
    end

    # @return [String]
    def ledger_directory = File.join(var, "ledger")

    # @return [String] where uploaded files wait to be imported
    def uploads_directory = File.join(var, "uploads")

    # @return [String] where finished exports are kept
    def exports_directory = File.join(var, "exports")

    # @return [String] under which destinations have their folders
    def outbox_directory = File.join(var, "outbox")

    # @return [String] file of the key that secrets are encrypted with
    def secrets_key_file = File.join(var, "keys", "secrets")

    # @return [String] the database's own directory
    def database_directory = File.join(var, "database")

    # @return [String] file of the key that makes tombstones of erased identifiers
    def erasure_key_file = File.join(database_directory, "erasure-key")

    # @return [String] where the database may write files for us
    def exchange_directory = File.join(var, "exchange")

    private

    def integer(name, default, range)
      text = @env.fetch(name, default.to_s)
      value = Integer(text, 10, exception: false)
      return value if value && range.cover?(value)

      raise Invalid, "#{name} must be a whole number from #{range.min} to #{range.max}, not #{text.inspect}"
    end

    def on?(name)
      value = @env.fetch(name, "on")
      return value == "on" if %w[on off].include?(value)

      raise Invalid, "#{name} must be on or off, not #{value.inspect}"
    end
  end
end
