# frozen_string_literal: true

require "net/http"

module EstrelServer
  module Pushing
    # Posts messages to one destination over a connection that is kept open between them.
    class Connection
      # The longest answer that is read, bytes.
      MAX_ANSWER = 4 << 20
      OPEN_TIMEOUT = 5
      # Seconds between looks whether the message is still to be sent.
      GLANCE = 0.2
      private_constant :GLANCE
      # What may be different the next time.
      FAILURES = [SystemCallError, SocketError, IOError, Timeout::Error, Net::ProtocolError, Net::HTTPBadResponse,
                  Resolv::ResolvError].freeze

      # Raised where no answer came; it may the next time.
      class NoAnswer < Error; end
      # Raised where none will come without a person.
      class Impossible < Error; end

      # @param destination [Destination] a webhook
      # @param guard [AddressGuard]
      def initialize(destination, guard = AddressGuard.new)
        @url = destination.settings.fetch("url")
        @timeout = destination.settings.fetch("timeout")
        @signature = Signature.new(destination.secret)
        @guard = guard
      end

      # One deadline holds for the whole exchange, however the destination spends the time: looking its name up,
      # connecting, and each byte of its answer.
      #
      # @param id [String] of the message
      # @param body [String]
      # @yield every now and then while the answer is waited for; what it raises ends the exchange
      # @return [Answer]
      # @raise [NoAnswer, Impossible]
      def post(id, body, &)
        now = Time.now
        headers = { "content-type" => "application/json", "user-agent" => "Estrel",
                    **@signature.headers(id, now.to_i, body) }
        request = Net::HTTP::Post.new(http_path, headers)
        request.body = body
        within_deadline(request, &)
      rescue AddressGuard::Refused, OpenSSL::SSL::SSLError => e
        close
        raise Impossible, e.is_a?(OpenSSL::SSL::SSLError) ? "TLS connection failed: #{e.message}" : e.message
      rescue *FAILURES => e
        close
        raise NoAnswer, "the destination cannot be reached: #{words(e)}"
      end

      # @return [void]
      def close
        @http&.finish if @http&.started?
      rescue IOError
        nil
      ensure
        @http = nil
      end

      private

      def http_path = @guard.parse(@url).request_uri

      def http
        @http ||= begin
          target = @guard.target(@url)
          http = Net::HTTP.new(target.uri.hostname, target.uri.port, nil)
          http.ipaddr = target.ip
          http.use_ssl = target.uri.scheme == "https"
          http.open_timeout = OPEN_TIMEOUT
          http.read_timeout = http.write_timeout = @timeout
          http.max_retries = 0
          http.start
        end
      end

      # The exchange runs in a thread of its own, since no limit of a single read ends it in time.
      def within_deadline(request)
        deadline = Process.clock_gettime(Process::CLOCK_MONOTONIC) + @timeout
        exchange = Thread.new { exchange(request) }
        exchange.report_on_exception = false
        until exchange.join(GLANCE)
          yield if block_given?
          raise Net::ReadTimeout if Process.clock_gettime(Process::CLOCK_MONOTONIC) > deadline
        end
        exchange.value
      ensure
        abandon(exchange) if exchange&.alive?
      end

      def abandon(exchange)
        exchange.kill.join
        close
      end

      def exchange(request)
        body = +""
        answer = http.request(request) do |response|
          response.read_body do |part|
            body << part
            raise Impossible, "the answer is longer than #{MAX_ANSWER >> 20} MB" if body.bytesize > MAX_ANSWER
          end
        end
        close if answer["connection"] == "close"
        Answer.new(answer.code.to_i, answer.each_header.to_h, body)
      rescue Impossible
        close
        raise
      end

      def words(error)
        case error
        when Net::OpenTimeout, Net::ReadTimeout, Net::WriteTimeout then "timeout after #{@timeout} seconds"
        when Errno::ECONNREFUSED then "connection refused"
        else error.message.to_s.scrub[0, 200]
        end
      end
    end
  end
end
