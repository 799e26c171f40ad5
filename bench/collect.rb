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
      @seconds = seconds
      @profiles = profiles
      @installation = Installation.new(directory)
    end

    # @return [void] prints what it measures
    def run
      @installation.during do
        @key = EstrelServer::SendingKey.issue(EstrelServer::Source.create!(name: "bench")).last
        @installation.beside("collect") { CONNECTIONS.each { |size, connections| measure(size, connections) } }
      end
    end

    private

    def measure(size, connections)
      before = EstrelServer::Event.count
      finish = Clock.now + @seconds
      started = Clock.now
      times = Array.new(connections) { |index| Thread.new { send_until(finish, size, index) } }.flat_map(&:value).sort
      seconds = Clock.now - started
      stored = EstrelServer::Event.count - before
      puts format("requests of %<size>d, %<connections>d connections: %<rate>d events/s for %<seconds>.0f s; " \
                  "p50 %<p50>.0f ms, p99 %<p99>.0f ms, longest %<max>.0f ms; %<sent>d sent, %<stored>d stored",
                  size: size, connections: connections, rate: times.size * size / seconds, seconds: seconds,
                  p50: times[times.size / 2] * 1000, p99: times[times.size * 99 / 100] * 1000, max: times.last * 1000,
                  sent: times.size * size, stored: stored)
    end

    def send_until(finish, size, sender)
      times = []
      address = URI(@installation.address)
      Net::HTTP.start(address.host, address.port) do |http|
        until Clock.now > finish
          request = request(size, "#{size}-#{sender}-#{times.size}")
          answer, seconds = Clock.timed { http.request(request) }
          times << seconds
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
  end
end
