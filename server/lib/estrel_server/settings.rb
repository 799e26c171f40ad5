# frozen_string_literal: true

require "ipaddr"

module EstrelServer
  # Every setting of the application, from environment variables. Frozen; docs/settings.md lists them.
  class Settings
    # Raised at start for a setting that makes no sense.
    class Invalid < Error; end

    include Values

    # Seconds after which nobody is at what lies in {#exchange_directory} any more.
    EXCHANGED = 86_400
    private_constant :EXCHANGED

    # @return [String] directory of everything Estrel keeps on disk
    attr_reader :var
    # @return [String] address to listen on
    attr_reader :bind
    # @return [Integer] port of the web server
    attr_reader :port
    # @return [Integer] web server processes
    attr_reader :web_processes
    # @return [Integer] processes that answer heavy questions
    attr_reader :question_processes
    # @return [Integer] port of the collector
    attr_reader :collector_port
    # @return [Integer] memory of the database's buffer pool, MiB
    attr_reader :database_memory_mb
    # @return [Integer] processes that answer parts of questions to a large ledger
    attr_reader :answering_processes
    # @return [Integer] in how many parts the ledger is asked at least; the same on all machines
    attr_reader :parts
    # @return [Array<Integer>] of these, the ones this machine answers for others
    attr_reader :parts_held
    # @return [Integer] events from which parts of questions are put to other processes
    attr_reader :parts_from_events
    # @return [Integer] memory for what a process that answers questions remembers of them, MB
    attr_reader :remembered_mb
    # @return [Array<String>] servers of NATS by which the machines reach each other; empty where there is one machine
    attr_reader :nats_urls
    # @return [String, nil] file of the certificates by which those servers are known
    attr_reader :nats_ca
    # @return [Integer] seconds one question may take
    attr_reader :question_seconds
    # @return [Integer] memory a web process may hold beyond mapped files while it answers a question, MB
    attr_reader :question_memory_mb
    # @return [Integer] days for which the database's binary logs are kept; 0 where there are none
    attr_reader :binary_log_days
    # @return [String, nil] address of a MariaDB elsewhere; nil for Estrel's own
    attr_reader :database_url
    # @return [String, nil] what secrets are encrypted with; nil for a key that is made and kept under `var`
    attr_reader :secrets_key
    # @return [String, nil] what they were encrypted with before, where that is to be replaced
    attr_reader :secrets_key_before
    # @return [String, nil] under which erased people are remembered; nil for a key that is made and kept under `var`
    attr_reader :erasure_key
    # @return [String, nil] those that it took the place of, the last one first, separated by commas
    attr_reader :erasure_keys_before
    # @return [Array<String>] hosts inside the network, maybe with a port, that may be pushed to
    attr_reader :push_hosts
    # @return [Integer] the longest pause after the first failed attempt of a push, milliseconds
    attr_reader :push_pause_ms
    # @return [String, nil] address of the OpenID provider that people may sign in by
    attr_reader :oidc_issuer
    # @return [String, nil] what Estrel is called there
    attr_reader :oidc_client
    # @return [String, nil] Estrel's secret there
    attr_reader :oidc_secret
    # @return [String] what people call the provider
    attr_reader :oidc_name
    # @return [String, nil] role of accounts that are made when somebody first comes from there; nil for none
    attr_reader :oidc_role
    # @return [String] who has to have a second factor, of {Access::SecondFactor::POLICIES}
    attr_reader :second_factor
    # @return [Boolean] whether the messaging stand-in runs on this machine
    attr_reader :stand_in
    # @return [Integer] its port
    attr_reader :stand_in_port
    # @return [Boolean] whether an empty workspace is filled with the demo
    attr_reader :demo
    # @return [String] the address people reach Estrel by, such as https://estrel.example
    attr_reader :public_url
    # @return [Array<String>] host names it answers to
    attr_reader :hosts
    # @return [Array<IPAddr>] proxies in front of it, whose word about the true peer is believed
    attr_reader :trusted_proxies
    # @return [String] the address sources send to, without a path
    attr_reader :collector_url
    # @return [Integer] days that exported files are kept here
    attr_reader :export_days
    # @return [Integer] days after which the properties of events are packed together; 0 where they never are
    attr_reader :pack_after_days
    # @return [Integer] the largest file that can be uploaded, MB
    attr_reader :upload_mb
    # @return [Integer] the most that a file may unpack to, MB
    attr_reader :unpacked_mb

    # @param env [Hash{String => String}]
    # @return [Settings]
    # @raise [Invalid] naming the variable
    def self.from(env) = new(env)

    def initialize(env)
      @env = env
      @var = File.expand_path(env.fetch("ESTREL_VAR", File.join(ROOT, "var")))
      @bind = listening("ESTREL_BIND", "127.0.0.1")
      @port = integer("ESTREL_PORT", 4270, 1..65_535)
      @collector_port = integer("ESTREL_COLLECTOR_PORT", 4271, 1..65_535)
      @database_memory_mb = integer("ESTREL_DATABASE_MEMORY_MB", 1024, 64..1_000_000)
      @binary_log_days = integer("ESTREL_BINARY_LOG_DAYS", 0, 0..3650)
      @database_url = checked_database(secret("ESTREL_DATABASE_URL"))
      keys
      @push_hosts = env.fetch("ESTREL_PUSH_HOSTS", "").split(",").map { |host| host.strip.downcase }.freeze
      @push_pause_ms = integer("ESTREL_PUSH_PAUSE_MS", 1000, 1..600_000)
      @second_factor = one_of("ESTREL_SECOND_FACTOR", Access::SecondFactor::POLICIES)
      @stand_in, @demo = %w[ESTREL_STAND_IN ESTREL_DEMO].map { |name| on?(name) }
      keeping
      answering
      reach
      network
      provider
      @env = @workspace = nil
      freeze
    end

    # @param workspace [String]
    # @return [Settings] the same for it: what it keeps has directories of its own
    def of(workspace) = workspace == self.workspace ? self : dup.tap { |settings| settings.belong_to(workspace) }

    # @return [String] the workspace these are of
    def workspace = @workspace || Workspaces::FIRST

    # @return [Boolean] whether people reach Estrel by https
    def https? = public_url.start_with?("https:")

    # @return [String] directory of what the workspace keeps
    def place = @workspace ? File.join(var, "workspaces", @workspace) : var

    # @return [String] where attempts to sign in are counted
    def attempts_directory = File.join(var, "attempts")

    # @return [String]
    def ledger_directory = File.join(place, "ledger")

    # @return [String] where pieces of a ledger to come are written for another machine, see {Parts::Lender}
    def written_directory = File.join(place, "ledger-written")

    # @return [Estrel::Ledger::Held] the pieces of a ledger that a machine needs that does nothing but answer
    def held = Estrel::Ledger::Held.new(parts_held, parts)

    # @return [String] where answers are kept until the ledger changes
    def answers_directory = File.join(place, "answers")

    # @return [String] where the processes that answer parts of questions are reached
    def answering_directory = File.join(var, "answering")

    # @return [String] where the processes that answer heavy questions are reached
    def questions_socket = File.join(var, "questions.sock")

    # @return [String] where uploaded files wait to be imported
    def uploads_directory = File.join(place, "uploads")

    # @return [String] where finished exports are kept
    def exports_directory = File.join(place, "exports")

    # @return [String] under which destinations have their folders
    def outbox_directory = File.join(place, "outbox")

    # @return [String] file of the key that secrets are encrypted with
    def secrets_key_file = File.join(var, "keys", "secrets")

    # @return [String] the database's own directory
    def database_directory = File.join(var, "database")

    # @return [String] file of the keys that make tombstones of erased identifiers, one a line, the newest first
    def erasure_key_file = File.join(database_directory, "erasure-key")

    # @return [String] where the database may write files for us
    def exchange_directory = File.join(var, "exchange", *@workspace)

    # @param name [String] what it is about
    # @return [String] path of a new file in {#exchange_directory}, which is there
    def exchange_file(name)
      FileUtils.mkdir_p(exchange_directory, mode: 0o700)
      File.join(exchange_directory, "#{name}-#{SecureRandom.hex(8)}.tsv")
    end

    # Removes what processes that were killed have left there.
    #
    # @return [void]
    def clear_exchange
      left = Dir.glob(File.join(exchange_directory, "*.tsv"))
      left.each { |path| FileUtils.rm_f(path) if Time.now - File.mtime(path) > EXCHANGED }
    rescue Errno::ENOENT
      nil # gone meanwhile
    end

    # @return [void]
    # @raise [Invalid] where nothing can be kept
    def check_directory
      FileUtils.mkdir_p(var)
      raise Errno::EACCES unless File.writable?(var)
    rescue SystemCallError => e
      reason = e.message[/\A[^@]+/].strip.downcase
      raise Invalid, "the directory for what Estrel keeps, #{var}, cannot be used (#{reason}); set ESTREL_VAR"
    end

    protected

    # Only the first one fills itself with the demo.
    def belong_to(workspace)
      @workspace = workspace == Workspaces::FIRST ? nil : workspace
      @demo &&= @workspace.nil?
      freeze
    end

    private

    def keys
      @secrets_key, @secrets_key_before, @erasure_key, @erasure_keys_before =
        %w[SECRETS_KEY SECRETS_KEY_BEFORE ERASURE_KEY ERASURE_KEYS_BEFORE].map { |name| secret("ESTREL_#{name}") }
    end

    def answering
      @web_processes = integer("ESTREL_WEB_PROCESSES", 2, 1..64)
      @question_processes = integer("ESTREL_QUESTION_PROCESSES", Etc.nprocessors + 1, 1..64)
      @answering_processes = integer("ESTREL_ANSWERING_PROCESSES", Etc.nprocessors, 1..64)
      @parts = integer("ESTREL_PARTS", 1, 1..1024)
      @parts_from_events = integer("ESTREL_PARTS_FROM_EVENTS", 1_000_000, 0..1_000_000_000_000)
      @remembered_mb = integer("ESTREL_REMEMBERED_MB", 500, 1..1_000_000)
      @question_seconds = integer("ESTREL_QUESTION_SECONDS", 30, 1..3600)
      @question_memory_mb = integer("ESTREL_QUESTION_MEMORY_MB", 4000, 100..1_000_000)
    end

    def keeping
      @export_days = integer("ESTREL_EXPORT_DAYS", 30, 1..3650)
      @pack_after_days = integer("ESTREL_PACK_AFTER_DAYS", 0, 0..3650)
      @upload_mb = integer("ESTREL_UPLOAD_MB", 2000, 1..1_000_000)
      @unpacked_mb = integer("ESTREL_UNPACKED_MB", 20_000, 1..10_000_000)
    end

    # How the parts reach each other.
    def network
      @nats_urls = secret("ESTREL_NATS_URL").to_s.split(",").map { |text| nats_server(text.strip) }.freeze
      @nats_ca = @env["ESTREL_NATS_CA"]
      @parts_held = numbers("ESTREL_PARTS_HELD", @parts)
      return if @nats_urls.empty? || @secrets_key

      raise Invalid, "ESTREL_NATS_URL is for several machines; give them the same ESTREL_SECRETS_KEY"
    end

    def provider
      @oidc_issuer = @env["ESTREL_OIDC_ISSUER"]
      @oidc_client = @env["ESTREL_OIDC_CLIENT"]
      @oidc_secret = secret("ESTREL_OIDC_SECRET")
      @oidc_name = @env.fetch("ESTREL_OIDC_NAME", "your organisation")
      role = one_of("ESTREL_OIDC_ROLE", ["none", *Access::Roles::ALL])
      @oidc_role = role == "none" ? nil : role
      check_provider if oidc_issuer
    end

    # Plain HTTP is for trying on one machine.
    def check_provider
      uri = URI(oidc_issuer)
      near = uri.is_a?(URI::HTTP) && %w[127.0.0.1 localhost].include?(uri.hostname)
      raise Invalid, "ESTREL_OIDC_ISSUER must be an https address" unless uri.is_a?(URI::HTTPS) || near
      raise Invalid, "ESTREL_OIDC_CLIENT and ESTREL_OIDC_SECRET are missing" unless oidc_client && oidc_secret
    rescue URI::InvalidURIError
      raise Invalid, "ESTREL_OIDC_ISSUER must be an https address"
    end

    # By which names and through which proxies it is reached.
    def reach
      @public_url = address("ESTREL_PUBLIC_URL", "http://#{host_in_address}:#{@port}")
      @stand_in_port = integer("ESTREL_STAND_IN_PORT", 4272, 1..65_535)
      @collector_url = address("ESTREL_COLLECTOR_URL", "http://#{host_in_address}:#{@collector_port}")
      @hosts = known_hosts.freeze
      @trusted_proxies = networks("ESTREL_TRUSTED_PROXIES").freeze
    end

    # Where it listens on every address, this machine's.
    def host_in_address
      return "localhost" if %w[0.0.0.0 ::].include?(@bind)

      @bind.include?(":") ? "[#{@bind}]" : @bind
    end

    # This machine's own names, the public one, and those named.
    def known_hosts
      named = @env.fetch("ESTREL_HOSTS", "").split(",").map { |host| host.strip.downcase }.reject(&:empty?)
      ["localhost", "127.0.0.1", "::1", "[::1]", @bind, URI.parse(@public_url).host.downcase, *named].uniq
    end
  end
end
