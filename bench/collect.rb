# frozen_string_literal: true

require "net/http"

module Bench
  # Measures the collector: this process sends over loopback, the collector and its database are processes of their own.
  class Collect
    CONNECTIONS = { 500 => 4, 1 => 24 }.freeze

    # @param directory [String] where this database lives; removed first
    # @param seconds [Integer] how long each form is sent
    # @param profiles [Integer] how many visitors the events are of
    def initialize(directory, seconds:, profiles:)
      @directory = directory
      @seconds = seconds
      @profiles = profiles
      @port = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port }
      ENV.update("ESTREL_VAR" => directory, "ESTREL_COLLECTOR_PORT" => @port.to_s, "ESTREL_DEMO" => "off")
    end

    # @return [void] prints what it measures
    def run
      FileUtils.rm_rf(@directory)
      FileUtils.mkdir_p(@directory)
      EstrelServer::Database.new(EstrelServer.settings).during do
        EstrelServer::Store.connect
        EstrelServer::Store.migrate
        @key = EstrelServer::WriteKey.issue(EstrelServer::Source.create!(name: "bench")).last
        Processes.new(@directory).during("collect") do
          Processes.wait_for("http://127.0.0.1:#{@port}/health")
          CONNECTIONS.each { |size, connections| measure(size, connections) }
        end
      end
    end

    private

    def measure(size, connections)
      before = EstrelServer::Event.count
      finish = now + @seconds
      started = now
      times = Array.new(connections) { |index| Thread.new { send_until(finish, size, index) } }.flat_map(&:value).sort
      seconds = now - started
      stored = EstrelServer::Event.count - before
      puts format("requests of %<size>d, %<connections>d connections: %<rate>d events/s for %<seconds>.0f s; " \
                  "p50 %<p50>.0f ms, p99 %<p99>.0f ms, longest %<max>.0f ms; %<sent>d sent, %<stored>d stored",
                  size: size, connections: connections, rate: times.size * size / seconds, seconds: seconds,
                  p50: times[times.size / 2] * 1000, p99: times[times.size * 99 / 100] * 1000, max: times.last * 1000,
                  sent: times.size * size, stored: stored)
    end

    def send_until(finish, size, sender)
      times = []
      Net::HTTP.start("127.0.0.1", @port) do |http|
        until now > finish
          request = request(size, "#{size}-#{sender}-#{times.size}")
          started = now
          answer = http.request(request)
          times << (now - started)
          raise "the collector answered #{answer.code}: #{answer.body}" unless answer.is_a?(Net::HTTPOK)
        end
      end
      times
    end

    def request(size, number)
      events = Array.new(size) { |index| event("#{number}-#{index}") }
      request = Net::HTTP::Post.new("/events", "authorization" => "Bearer #{@key}", "content-type" => type(size))
      request.body = size == 1 ? events.first : "[#{events.join(",")}]"
      request
    end

    def type(size) = "application/cloudevents#{"-batch" if size > 1}+json"

    def event(id)
      %({"specversion":"1.0","id":"#{id}","source":"bench","type":"#{DataSet::TYPES.keys[rand(4)]}",) +
        %("subject":"visitor:#{rand(@profiles)}","time":"2026-05-03T10:00:#{format("%02d", rand(60))}Z",) +
        %("data":{"distance_km":#{rand(120) / 10.0},"bike":"B#{rand(900)}","night":#{rand < 0.2}}})
    end

    def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
  end
end
