# frozen_string_literal: true

require "net/http"
require "securerandom"

module Bench
  # A long run: all of Estrel's processes with the demo in it, events coming in at a steady rate and questions asked one
  # after the other, for as long as is asked. Tells minute by minute how much memory each kind of process holds, how
  # long questions took and how large what is kept has become; and at the end what has grown after the first fifth.
  class Soak
    KINDS = %w[web questions answers collector ledger imports exports schedule].freeze
    # Directories that grow with what has come in.
    DATA = %w[database ledger].freeze
    # Questions whose answers change with every refresh.
    QUESTIONS = [["states", {}], ["activity", {}], ["trends", { "series" => [{ "event" => "ride_ended" }] }],
                 ["retention", { "start" => { "event" => "pass_bought" }, "return" => { "event" => "ride_ended" } }],
                 ["breakdown", { "by" => { "attribute" => "plan" } }]].freeze
    LAST_DAY = Date.new(2026, 10, 31)
    # Days over which what comes in is spread, and connections by which it comes at first.
    DAYS = 120
    CONNECTIONS = 4
    # Times a minute that memory is looked at, which goes up and down with each question.
    LOOKS = 12
    Minute = Struct.new(:memory, :half, :most, :asked, :kept, :events)
    private_constant :Minute

    # @param directory [String] where Estrel lives for this; removed first
    # @param minutes [Integer]
    # @param rate [Integer] events a second
    # @param people [Integer] whose they are, about
    # @param first [Integer] events that come in before, as fast as they can
    def initialize(directory, minutes:, rate:, people:, first:)
      @directory = directory
      @minutes = minutes
      @rate = rate
      @people = people
      @first = first
      ports = Array.new(3) { Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port } }
      @web, @collector = ports.first(2).map { |port| URI("http://127.0.0.1:#{port}") }
      @environment = { "ESTREL_VAR" => directory, "ESTREL_DEMO" => "on", "ESTREL_PORT" => ports[0].to_s,
                       "ESTREL_COLLECTOR_PORT" => ports[1].to_s, "ESTREL_STAND_IN_PORT" => ports[2].to_s }
      @took = []
      @sent = 0
    end

    # @return [void] prints what it measures
    def run
      FileUtils.rm_rf(@directory)
      FileUtils.mkdir_p(@directory)
      system(@environment, Processes::ESTREL, "setup", out: File::NULL, exception: true)
      pid = Process.spawn(@environment, File.expand_path("../bin/run", __dir__), out: File::NULL, err: File::NULL)
      Processes.wait_for(@web + "/health/ready")
      prepare
      before = figure("estrel_ledger_events")
      fill(before)
      minutes = measured
      report(minutes)
      settle(before)
    ensure
      Process.kill("TERM", pid) && Process.wait(pid) if pid
    end

    private

    def estrel(*words) = IO.popen(@environment, [Processes::ESTREL, *words], &:read)

    def prepare
      @key = estrel("source", "add", "bench")[/ek_\S+/]
      Net::HTTP.post(@web + "/api/session/demo", "{}", "content-type" => "application/json") # makes the account
      @token = estrel("account", "token", "demo@ferrowick.example", "--scopes", "read")[/et_\S+/]
    end

    def fill(before)
      return unless @first.positive?

      _, seconds = Clock.timed do
        Array.new(CONNECTIONS) { Thread.new { send_second until @sent >= @first } }.each(&:join)
      end
      puts "#{@sent} events in #{seconds.round} s before"
      settle(before)
    end

    def measured
      ended = false
      threads = [Thread.new { in_time { send_second } until ended }, Thread.new { ask until ended }]
      threads.each { |thread| thread.report_on_exception = true }
      Array.new(@minutes) do
        @took = []
        memory = Array.new(LOOKS) { sleep(60.0 / LOOKS) && self.memory }
        minute(@took.sort, memory).tap { |found| line(found) }
      end
    ensure
      ended = true # what is under way is waited for, so that all that was stored is counted
      threads&.each(&:join)
    end

    # Not more often than once a second.
    def in_time
      started = Clock.now
      yield
      sleep [1 - (Clock.now - started), 0].max
    end

    def send_second
      second = SecureRandom.hex(6)
      events = Array.new(@rate) { |index| event("#{second}-#{index}") }
      events.each_slice(500) do |part|
        head = { "authorization" => "Bearer #{@key}", "content-type" => "application/cloudevents-batch+json" }
        answer = Net::HTTP.post(@collector + "/events", "[#{part.join(",")}]", head)
        raise "#{answer.code} #{answer.body[0, 200]}" unless answer.is_a?(Net::HTTPOK)

        @sent += part.size
      end
    end

    def event(id)
      day = LAST_DAY - rand(DAYS)
      %({"specversion":"1.0","id":"soak-#{id}","source":"bench","type":"trip_planned",) +
        %("subject":"visitor:#{rand(@people)}","time":"#{day}T#{format("%02d:%02d", rand(24), rand(60))}:00Z",) +
        %("data":{"to":"Lantern Hill"}})
    end

    def ask
      name, question = QUESTIONS[@took.size % QUESTIONS.size]
      _, seconds = Clock.timed do
        answer = Net::HTTP.post(@web + "/api/analyses/#{name}", JSON.generate({ "as_of" => LAST_DAY.to_s, **question }),
                                "authorization" => "Bearer #{@token}", "content-type" => "application/json")
        raise "#{name}: #{answer.code} #{answer.body[0, 200]}" unless answer.is_a?(Net::HTTPOK)
      end
      @took << seconds
      sleep 0.5
    end

    def figures
      request = Net::HTTP::Get.new("/metrics", "authorization" => "Bearer #{@token}")
      Net::HTTP.start(@web.host, @web.port) { |http| http.request(request).body }
    end

    def figure(name, told = figures) = told[/^#{Regexp.escape(name)} (\S+)/, 1].to_f

    def memory
      told = figures
      KINDS.to_h { |kind| [kind, figure("estrel_memory_bytes{process=\"#{kind}\"}", told) / 1_000_000] }
    end

    def minute(took, looks)
      memory = KINDS.to_h { |kind| [kind, looks.sum { |look| look[kind] } / looks.size] }
      at = ->(share) { took.empty? ? 0 : took[((took.size - 1) * share).round] * 1000 }
      Minute.new(memory, at.call(0.5), at.call(0.95), took.size, kept, @sent)
    end

    # What is not data: logs, kept answers, figures, files of exports.
    def kept
      files = (Dir.children(@directory) - DATA).flat_map { |name| Dir[File.join(@directory, name, "**/*")] }
      files.sum { |path| size(path) }.fdiv(1_000_000)
    end

    def size(path) = File.file?(path) ? File.size(path) : 0

    def line(minute)
      memory = minute.memory.map { |kind, held| "#{kind} #{held.round}" }.join(", ")
      puts "#{minute.events} events; #{minute.asked} questions, half in #{minute.half.round} ms, 95% in " \
           "#{minute.most.round} ms; MB: #{memory}; #{minute.kept.round(1)} MB besides data"
    end

    def report(minutes)
      fifths = minutes.each_slice([@minutes / 5, 1].max).to_a
      parts = [fifths[1] || fifths.first, fifths.last]
      puts "In the second fifth, and in the last:"
      KINDS.each { |kind| change("#{kind}, MB", parts) { |minute| minute.memory[kind] } }
      change("half of the questions, ms", parts, &:half)
      change("95% of the questions, ms", parts, &:most)
      change("besides data, MB", parts, &:kept)
    end

    def change(name, parts, &)
      before, after = parts.map { |part| part.sum(&).fdiv(part.size) }
      puts format("%<name>-28s %<before>8.1f %<after>8.1f  %<share>+.0f%%", name: name, before: before, after: after,
                                                                            share: ((after / before) - 1) * 100)
    end

    # All that was sent is in the ledger, once.
    def settle(before)
      300.times do
        there = figure("estrel_ledger_events") - before
        return puts("all #{@sent} events sent are in the ledger") if there == @sent

        sleep 1
      end
      puts "#{@sent} events were sent, and #{(figure("estrel_ledger_events") - before).round} more are in the ledger"
    end
  end
end
