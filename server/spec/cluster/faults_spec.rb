# frozen_string_literal: true

require "fileutils"
require "tmpdir"

ROOT = File.expand_path("../../..", __dir__)
require_relative "../../lib/estrel_server"
require_relative "hosts"
require_relative "cluster"

# While 500 events a second come in and questions are asked, one thing after the other goes wrong.
RSpec.describe "a cluster of databases" do
  let(:cluster) { Cluster.new(File.join(Dir.tmpdir, "estrel-cluster")) }
  let(:key) { cluster.estrel("source", "add", "app")[/ek_\S+/] }
  let(:load) { Load.new(cluster, key) }

  after do
    load.stop
    cluster.stop
  end

  # What is sent and asked all the time, and what came of it. Batches that were not acknowledged are sent again.
  class Load
    RATE = 500
    BATCH = 50

    attr_reader :answers

    def initialize(cluster, key)
      @cluster = cluster
      @key = key
      @waiting = Queue.new
      @acknowledged = Queue.new
      @answers = []
      @next = 0
    end

    def start
      @feeder = Thread.new { feed }
      @threads = [@feeder, *Array.new(4) { Thread.new { send_batches } }, Thread.new { ask }]
    end

    # Until all that was sent has been acknowledged.
    def stop
      @stopped = true
      @threads&.each(&:join)
    end

    def acknowledged = @acknowledged.size

    def sent = @next

    # @return [Float] seconds until something sent from now on is acknowledged, and until an answer comes
    def recovered
      batch = sent
      started = now
      @cluster.wait(120) { @acknowledged.size > batch }
      stored = now - started
      before = @answers.size
      @cluster.wait(120) { @answers.size > before }
      [stored, now - started].map { |seconds| seconds.round(1) }
    end

    private

    def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

    def feed
      started = now
      until @stopped
        sleep(0.01) until (now - started) * RATE / BATCH > @next
        @waiting << @next
        @next += 1
      end
    end

    def send_batches
      while @feeder.alive? || !@waiting.empty?
        number = begin
          @waiting.pop(true)
        rescue ThreadError
          next sleep(0.02)
        end
        accepted?(number) ? @acknowledged << number : (@waiting << number) && sleep(0.1)
      end
    end

    def accepted?(number)
      uri = URI("#{@cluster.collector}/events")
      headers = { "authorization" => "Bearer #{@key}", "content-type" => "application/cloudevents-batch+json" }
      Net::HTTP.start(uri.host, uri.port, open_timeout: 2, read_timeout: 10) { |http| http.post(uri.path, batch(number), headers) }.is_a?(Net::HTTPOK)
    rescue SystemCallError, EOFError, Timeout::Error
      false
    end

    def batch(number)
      JSON.generate(Array.new(BATCH) { |index| { specversion: "1.0", id: "#{number}-#{index}", source: "app", type: "ride_ended", subject: "visitor:#{((number * BATCH) + index) % 997}", time: "2026-05-03T10:00:00Z", data: { n: index } } })
    end

    # What was acknowledged before a question was asked need not be in its answer yet, but what an answer has held stays.
    def ask
      until @stopped
        answer = @cluster.api("/analyses/ranking", { from: "2026-05-01", as_of: "2026-05-31", counted_by: "times" })
        @answers << [answer.dig("picture", "rows", 0, "times"), @next * BATCH] if answer&.dig("picture", "rows", 0)
        sleep 0.2
      end
    end
  end

  faults = {
    "a database server is killed" => ->(cluster) { cluster.kill_database(:three) },
    "it comes back" => ->(cluster) { cluster.start_database(:three) && cluster.wait { cluster.joined?(:three) } },
    "the server that is written to is killed" => ->(cluster) { cluster.kill_database(:one) },
    "it comes back and is written to again" => ->(cluster) { cluster.start_database(:one) && cluster.wait { cluster.joined?(:one) } },
    "packets to and from it vanish" => ->(cluster) { cluster.cut_off(:one) },
    "they no longer do" => ->(cluster) { cluster.mend(:one) && cluster.wait { cluster.joined?(:one) } },
    "the way to another takes 300 ms" => ->(cluster) { cluster.slow(:two, 300) },
    "it no longer does" => ->(cluster) { cluster.mend(:two) },
    "the collector is killed and started" => ->(cluster) { cluster.kill_estrel(:collector) && cluster.start_estrel(:collector) },
    "what builds the ledger is killed and started" => ->(cluster) { cluster.kill_estrel(:ledger) && cluster.start_estrel(:ledger) },
    "everything is killed and started in any order" => lambda do |cluster|
      %i[one two three].each { |name| cluster.kill_database(name) }
      %i[web ledger collector].each { |part| cluster.kill_estrel(part) }
      steps = [*%i[one two three].map { |name| -> { cluster.start_database(name) } }, *%i[web ledger collector].map { |part| -> { cluster.start_estrel(part) } }]
      steps.shuffle(random: Random.new(RSpec.configuration.seed)).each(&:call)
    end
  }

  it "keeps every acknowledged event exactly once, in the store and in every answer, whatever of it fails" do
    cluster.start
    load.start
    load.recovered
    recovery = faults.to_h do |what, happen|
      happen.call(cluster)
      [what, load.recovered]
    end
    load.stop
    puts(*recovery.map { |what, (stored, answered)| "  #{what}: stored again after #{stored} s, answered after #{answered} s" })
    sent = load.sent * Load::BATCH
    expect(load.acknowledged).to eq(load.sent)
    expect(cluster.query("SELECT COUNT(*), COUNT(DISTINCT event_key) FROM events")).to eq([[sent, sent]])
    cluster.wait { cluster.api("/analyses/ranking", { from: "2026-05-01", as_of: "2026-05-31", counted_by: "times" })&.dig("picture", "rows", 0, "times") == sent }
    expect(cluster.query("SELECT COUNT(*) FROM profiles")).to eq([[997]])
    counts = load.answers.map(&:first)
    expect(counts).to eq(counts.sort), "an answer held less than one before"
    expect(load.answers).to all(satisfy { |count, there_were| count <= there_were })
  end
end
