# frozen_string_literal: true

require "net/http"

module EstrelServer
  module CLI
    # Streams a file of CloudEvents, one a line, to a collector in batches; sends again what was not acknowledged.
    class SendCommand
      BATCH = 500
      TRIES = 8
      LONGEST_PAUSE = 30
      TRANSIENT = [408, 429, 500, 502, 503, 504].freeze

      # @param shell [#say]
      # @param collector [String] address of the collector
      # @param key [String]
      def initialize(shell, collector:, key:)
        @shell = shell
        @uri = URI(collector)
        @key = key
        @counts = Hash.new(0)
        @reasons = Hash.new(0)
      end

      # @param input [IO] JSON Lines
      # @return [Boolean] whether everything was taken
      # @raise [Error] where the collector refuses to listen or does not answer
      def send_lines(input)
        Net::HTTP.start(@uri.host, @uri.port, use_ssl: @uri.scheme == "https") do |http|
          input.each_line(chomp: true).lazy.select { |line| sendable?(line) }
               .each_slice(BATCH) { |lines| count(post(http, lines)) }
        end
        report
        @counts["refused"].zero?
      rescue SystemCallError, SocketError, IOError => e
        report
        raise Error, "the collector cannot be reached: #{e.message}"
      end

      private

      # One line that is no JSON would spoil the batch around it.
      def sendable?(line)
        return false if line.strip.empty?

        JSON.parse(line)
        true
      rescue JSON::ParserError
        @counts["refused"] += 1
        @reasons["not sent: the line is not valid JSON"] += 1
        false
      end

      def post(http, lines)
        TRIES.times do |attempt|
          answer = http.request(request(lines))
          return JSON.parse(answer.body) if %w[200 403].include?(answer.code)
          raise Error, refusal(answer) unless TRANSIENT.include?(answer.code.to_i)

          sleep [Float(answer["retry-after"] || (0.5 * (2**attempt))), LONGEST_PAUSE].min
        end
        raise Error, "the collector is overloaded; send the file again to continue (duplicates are ignored)"
      end

      def request(lines)
        Net::HTTP::Post.new(@uri, "authorization" => "Bearer #{@key}", "content-encoding" => "gzip",
                                  "content-type" => "application/cloudevents-batch+json")
                       .tap { |request| request.body = Zlib.gzip("[#{lines.join(",")}]") }
      end

      def refusal(answer)
        detail = JSON.parse(answer.body)["detail"]
        "the collector answered #{answer.code}: #{detail}"
      rescue JSON::ParserError
        "the collector answered #{answer.code}"
      end

      def count(answer)
        raise Error, answer["detail"] unless answer.key?("events")

        %w[stored known refused].each { |outcome| @counts[outcome] += answer[outcome] }
        answer["events"].each { |event| @reasons[event["reason"]] += 1 if event["reason"] }
      end

      def report
        @shell.say "#{@counts["stored"]} stored, #{@counts["known"]} duplicates, #{@counts["refused"]} rejected"
        @reasons.sort_by { |_, count| -count }.first(5).each { |reason, count| @shell.say "  #{count}: #{reason}" }
      end
    end
  end
end
