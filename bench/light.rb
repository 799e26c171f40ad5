# frozen_string_literal: true

module Bench
  # Light requests of one account while others ask heavy questions without a pause: how long they take, alone and then.
  class Light
    LIGHT = %w[/session /workspace /catalogue /annotations /rule-sets].freeze
    LISTS = %w[/audiences /people?per_page=50].freeze
    PER_SECOND = 4
    STEPS = %w[app_opened trip_planned ride_ended pass_bought].map { |name| { event: name } }.freeze

    # @param directory [String] where Estrel lives for this; removed first, unless the same events are there already
    # @param profiles [Integer]
    # @param events [Integer]
    # @param accounts [Integer] that ask, two questions at a time each
    # @param seconds [Integer] for which is measured
    def initialize(directory, profiles:, events:, accounts:, seconds:)
      @profiles = profiles
      @events = events
      @accounts = accounts
      @seconds = seconds
      ports = %w[ESTREL_PORT ESTREL_STAND_IN_PORT].to_h { |name| [name, free_port] }
      @again = events_in(File.join(directory, "ledger")) == events
      @installation = Installation.new(directory, again: @again, **ports, "ESTREL_DATABASE_MEMORY_MB" => "4096")
      @mutex = Mutex.new
      @web = URI("http://127.0.0.1:#{ports["ESTREL_PORT"]}")
    end

    # @return [void] prints what it measures
    def run
      @installation.during { prepare }
      pid = Process.spawn(File.expand_path("../bin/run", __dir__), out: File::NULL, err: File::NULL)
      Processes.wait_for("#{@web}/health/live")
      sleep 5
      measure
    ensure
      Process.kill("TERM", pid) && Process.wait(pid) if pid
    end

    private

    def free_port = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port.to_s }

    def events_in(directory)
      Estrel::Ledger.new(directory).current.facts["event_count"]
    rescue Estrel::Ledger::Missing
      0
    end

    def prepare
      return sign_in if @again

      Filling.new(@profiles, @events) { |random| { distance_km: random.rand(120) / 10.0 } }.carry_out
      EstrelServer::LedgerBuilding::Builder.new.refresh
      sign_in
    end

    def sign_in
      @tokens = Array.new(@accounts + 1) do |number|
        account = EstrelServer::Account.find_or_create_by!(email: "bench-#{number}@estrel.example") { |row| row.role = "analyst" }
        EstrelServer::ApiToken.issue(account, "bench", %w[read write]).last
      end
    end

    def measure
      5.times { |number| ask(@tokens.first, "/audiences", name: "Audience #{number}", definition: definition(number)) }
      2.times { [*LIGHT, *LISTS].each { |path| ask(@tokens.first, path) } }
      report("alone", times)
      asked = Hash.new(0)
      askers = @tokens.drop(1).flat_map { |token| Array.new(2) { Thread.new { keep_asking(token, asked) } } }
      sleep 10
      report("while #{@accounts} others ask", times)
      @ended = true
      askers.each(&:join)
      puts "heavy questions answered with #{asked.map { |status, number| "#{status}: #{number}" }.join(", ")}"
    end

    # Questions about days that nobody has asked about before, so that nothing is kept of them.
    def keep_asking(token, asked)
      random = Random.new(token.hash)
      until @ended
        path, question = heavy(random)
        status = ask(token, path, question).code
        @mutex.synchronize { asked[status] += 1 }
      end
    end

    def heavy(random)
      from = (DataSet::LAST_DAY - random.rand(60..700)).iso8601
      [["/analyses/funnel", { steps: STEPS, from: from }],
       ["/analyses/retention", { start: { event: "pass_bought" }, return: { event: "ride_ended" }, from: from }],
       ["/analyses/trends", { series: [{ event: "ride_ended" }], measure: "sum", property: "distance_km", from: from }],
       ["/analyses/activity", { from: from }],
       ["/audiences/preview", { definition: definition(random.rand(1..700)) }]].sample(random: random)
    end

    def definition(number)
      steps = STEPS.map { |step| step.transform_keys(&:to_s) }
      { "all" => [{ "order" => { "steps" => steps, "within" => { "days" => number + 7 } } }] }
    end

    # @return [Hash{String => Array<Float>}] seconds by path
    def times
      paths = [*LIGHT, *LISTS].cycle
      started = Clock.now
      asked = Array.new(@seconds * PER_SECOND) do |number|
        wait = started + (number / PER_SECOND.to_f) - Clock.now
        sleep wait if wait.positive?
        Thread.new(paths.next) { |path| [path, Clock.timed { ask(@tokens.first, path) }.last] }
      end
      asked.map(&:value).group_by(&:first).transform_values { |rows| rows.map(&:last).sort }
    end

    def report(circumstance, times)
      { "light routes" => LIGHT, "lists" => LISTS }.each do |name, paths|
        all = times.values_at(*paths).flatten.sort
        median, most, longest = [all.size / 2, all.size * 95 / 100, -1].map { |place| (all[place] * 1000).round }
        puts "#{name}, #{circumstance}: median #{median} ms, 95th percentile #{most} ms, longest #{longest} ms"
      end
    end

    def ask(token, path, question = nil)
      http = Net::HTTP.new(@web.host, @web.port)
      http.read_timeout = 600
      headers = { "authorization" => "Bearer #{token}", "content-type" => "application/json" }
      question ? http.post("/api#{path}", JSON.generate(question), headers) : http.get("/api#{path}", headers)
    end
  end
end
