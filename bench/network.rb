# frozen_string_literal: true

module Bench
  # What it costs to ask a part over NATS instead of a socket of this machine: a question whose part has been answered
  # before is asked again and again of one process that holds it, and once the same of the same process without NATS.
  class Network
    REPEATS = 50
    private_constant :REPEATS

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
      @var = "#{directory}-network"
      FileUtils.mkdir_p(@var)
      FileUtils.ln_sf(directory, File.join(@var, "ledger")) unless File.exist?(File.join(@var, "ledger"))
      @port = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port }
    end

    # @return [Hash{String => Float}] seconds, the median of each way
    def run
      during do
        network = EstrelServer::Parts::Network.new(settings)
        elsewhere = EstrelServer::Parts::Elsewhere.new(network, settings.parts)
        sleep 0.1 until network.client && elsewhere.holders(0, 0).any?
        pools = { "over a socket" => EstrelServer::Answers::Pool.new(settings, nil),
                  "over NATS" => EstrelServer::Answers::Pool.new(settings, elsewhere) }
        pools.transform_values { |pool| median(pool) }
      end
    end

    private

    def environment
      { "ESTREL_VAR" => @var, "ESTREL_ANSWERING_PROCESSES" => "1", "ESTREL_PARTS" => "1",
        "ESTREL_SECRETS_KEY" => "bench", "ESTREL_NATS_URL" => "nats://127.0.0.1:#{@port}" }
    end

    def settings = @settings ||= EstrelServer::Settings.from(ENV.to_h.merge(environment))

    def during
      pids = [Process.spawn("nats-server", "-a", "127.0.0.1", "-p", @port.to_s, out: File::NULL, err: File::NULL),
              Process.spawn(environment, Processes::ESTREL, "answer")]
      sleep 0.1 until File.socket?(EstrelServer::Answers::Pool.path(settings, 0))
      yield
    ensure
      pids.each { |pid| Process.kill("TERM", pid) && Process.wait(pid) }
    end

    def median(pool)
      generation = Estrel::Ledger.new(@directory).current
      times = Array.new(REPEATS + 5) do
        workspace = Analyses.workspace(generation, Questions::AS_OF)
        analysis = Analyses.ask("states", { from: Questions::AS_OF - 30, step: "day" }, workspace).tap(&:key)
        Clock.timed { analysis.over(pool) }.last
      end
      times.drop(5).sort[REPEATS / 2]
    end
  end
end
