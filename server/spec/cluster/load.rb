# frozen_string_literal: true

require "net/http"

# What is sent and asked all the time, and what came of it. Batches that were not acknowledged are sent again.
class Load
  RATE = 500
  BATCH = 50
  # Who send at the same time; each waits until its batch is acknowledged.
  SENDERS = 12

  # Numbers of the runs of the export that were begun.
  attr_reader :runs
  # By host, how many events each answer counted, and how many there were to count.
  attr_reader :answers

  def initialize(cluster, key)
    @cluster = cluster
    @key = key
    @waiting = Queue.new
    @acknowledged = Queue.new
    @answers = { web: [], other: [] } # by host, each of which has a ledger of its own
    @runs = []
    @next = 0
  end

  def start
    @feeder = Thread.new { feed }
    senders = Array.new(SENDERS) { Thread.new { send_batches } }
    askers = @answers.keys.map { |host| Thread.new { ask(host) } }
    @threads = [@feeder, *senders, *askers, Thread.new { export }]
  end

  # Until all that was sent has been acknowledged, or a minute has gone.
  def stop
    @stopped = true
    @threads&.each { |thread| thread.join(60) || thread.kill }
  end

  def acknowledged = @acknowledged.size

  def sent = @next

  # @param hosts [Array<Symbol>]
  # @return [Array<Float>] seconds until everything sent before and something sent from now on is acknowledged, and until
  #   all that is in the answers of these hosts
  def recovered(hosts = @answers.keys)
    batch = sent
    started = now
    @cluster.wait(120) { @acknowledged.size > batch }
    stored = now - started
    @cluster.wait(120) { @answers.values_at(*hosts).all? { |answers| answers.any? && answers.last.first > batch * BATCH } }
    [stored, now - started].map { |seconds| seconds.round(1) }
  end

  # Until what has piled up is stored, so that what goes wrong next begins with nothing.
  def caught_up = @cluster.wait(120) { sent - acknowledged <= SENDERS }

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
  def ask(host)
    until @stopped
      counted = @cluster.counted(host)
      @answers[host] << [counted, @next * BATCH] if counted
      sleep 0.2
    end
  end

  # One run after the other, as soon as the one before has ended.
  def export
    @cluster.wait { @cluster.export }
    until @stopped
      run = @cluster.api("/exports/#{@cluster.export}/runs", { as_of: "2026-05-31" }, host: :other)
      @runs << run["id"] if run&.key?("id")
      sleep 0.5
    end
  end
end
