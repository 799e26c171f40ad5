# frozen_string_literal: true

require "net/http"

module EstrelServer
  module Answers
    # A heavy question that a process of config/questions_puma.rb answers, since such a process can be killed at the
    # limit. Whether the asker still waits is passed on: once their connection is closed, the one to the process is half
    # closed, and the process stops between two steps. The turn of a question lasts until the process has stopped.
    class ForwardedQuestion
      # Of the request, what the process needs to know.
      HEADERS = { "CONTENT_TYPE" => "content-type", "HTTP_ACCEPT" => "accept", "HTTP_COOKIE" => "cookie",
                  "HTTP_AUTHORIZATION" => "authorization" }.freeze
      # Of the response, what belongs to one connection.
      OF_CONNECTION = %w[connection keep-alive transfer-encoding].freeze
      # Seconds for which a question waits for a process at most, and between two looks whether the asker is there.
      LONGEST = 600
      PAUSE = 1
      GONE = [EOFError, IOError, SystemCallError, Net::HTTPBadResponse, Net::ReadTimeout].freeze
      private_constant :HEADERS, :OF_CONNECTION, :LONGEST, :PAUSE, :GONE

      # A request over a socket that is open already.
      class Exchange < Net::HTTP
        # @param socket [UNIXSocket]
        # @return [Exchange]
        def self.over(socket)
          new("localhost").tap do |exchange|
            exchange.over = socket
            exchange.read_timeout = LONGEST
            exchange.max_retries = 0
          end
        end

        # @return [UNIXSocket]
        attr_writer :over

        private

        def connect
          @socket = Net::BufferedIO.new(@over, read_timeout: read_timeout, continue_timeout: nil)
        end
      end
      private_constant :Exchange

      # @param settings [Settings]
      # @return [UNIXSocket, nil] nil where no such process runs
      def self.connect(settings)
        UNIXSocket.new(settings.questions_socket)
      rescue SystemCallError
        nil
      end

      # @param socket [UNIXSocket] of {.connect}
      # @param env [Hash] the Rack environment
      # @param seconds [Integer] that a question may take
      def initialize(socket, env, seconds)
        @socket = socket
        @env = env
        @seconds = seconds
        @came = Queue.new
      end

      # @return [Array] a Rack response, whose body has to be closed
      def response
        @asked = now
        request = self.request
        @exchange = Thread.new { exchange(request) }
        @watch = Thread.new { watch }
        kind, status, headers = @came.pop
        return [status, headers, self] if kind == :head

        close
        API::Problems.response(*ended)
      end

      # @yieldparam part [String]
      # @return [void]
      def each
        loop do
          kind, part = @came.pop
          break if kind == :end
          next yield part if kind == :part
          raise IOError, "a process ended while it answered" unless @stream

          break yield EventStream.event("problem", JSON.generate(API::Problems.to_h(*ended)))
        end
      end

      # Waits until the process has stopped.
      #
      # @return [void]
      def close
        @watch.kill
        give_up
        @exchange.join
      end

      private

      # What has come is read at once, so that a slow reader does not hold up the process.
      def exchange(request)
        Exchange.over(@socket).start do |http|
          http.request(request) do |response|
            headers = response.to_hash.transform_values(&:first).except(*OF_CONNECTION)
            @stream = headers["content-type"].to_s.start_with?("text/event-stream")
            @came << [:head, response.code.to_i, headers]
            response.read_body { |part| @came << [:part, part] }
          end
        end
        @came << [:end]
      rescue StandardError => e
        Log.error("a question could not be forwarded", e) unless GONE.any? { |kind| e.is_a?(kind) }
        @came << [:gone]
      ensure
        @socket.close
      end

      def request
        path = @env.values_at("SCRIPT_NAME", "PATH_INFO").join
        query = @env["QUERY_STRING"].to_s
        given = HEADERS.filter_map { |name, header| [header, @env[name]] if @env[name] }.to_h
        headers = { **given, QuestionLimit::REQUEST => Log.context[:request], "accept-encoding" => "identity" }.compact
        path = "#{path}?#{query}" unless query.empty?
        return Net::HTTP::Get.new(path, headers) if @env["REQUEST_METHOD"] == "GET"

        Net::HTTP::Post.new(path, headers).tap { |post| post.body = body }
      end

      def body
        @env["rack.input"].rewind
        @env["rack.input"].read
      end

      # Until the asker's connection is closed.
      def watch
        asker = @env["puma.socket"] or return
        loop do
          next unless asker.wait_readable(PAUSE)
          break give_up if Asker.gone?(asker)

          sleep PAUSE # a further request has been sent already
        end
      end

      def give_up
        @socket.shutdown(Socket::SHUT_WR)
      rescue SystemCallError, IOError
        nil # it has ended already
      end

      # Status and detail.
      def ended
        return [422, Estrel::Budget.too_long(@seconds)] if now - @asked >= @seconds

        [503, "the process that answered this question ended; ask again"]
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
