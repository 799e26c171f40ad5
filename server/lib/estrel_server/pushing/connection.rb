# frozen_string_literal: true

require "net/http"

module EstrelServer
  module Pushing
    # Posts messages to one destination over a connection that is kept open between them.
    class Connection
      # The longest answer that is read, bytes.
      MAX_ANSWER = 4 << 20
      OPEN_TIMEOUT = 5
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

      # @param id [String] of the message
      # @param body [String]
      # @return [Answer]
      # @raise [NoAnswer, Impossible]
      def post(id, body)
        now = Time.now
        headers = { "content-type" => "application/json", "user-agent" => "Estrel",
                    **@signature.headers(id, now.to_i, body) }
        request = Net::HTTP::Post.new(http_path, headers)
        request.body = body
        exchange(request, now + @timeout)
      rescue AddressGuard::Refused, OpenSSL::SSL::SSLError => e
        close
        raise Impossible, e.is_a?(OpenSSL::SSL::SSLError) ? "no safe connection can be made: #{e.message}" : e.message
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

      def exchange(request, deadline)
        body = +""
        answer = http.request(request) do |response|
          response.read_body do |part|
            body << part
            raise Net::ReadTimeout, "the answer did not end" if Time.now > deadline
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
        when Net::OpenTimeout, Net::ReadTimeout, Net::WriteTimeout then "it did not answer within #{@timeout} seconds"
        when Errno::ECONNREFUSED then "nothing listens at the address"
        else error.message.to_s.scrub[0, 200]
        end
      end
    end
  end
end
