# frozen_string_literal: true

require "time"

module EstrelServer
  module Pushing
    # What a destination's answer to a message means: taken (with the people it refused), send again later, or stop.
    #
    # Any 2xx without a body takes everybody. A body must be JSON, `{"refused": [{"key": …, "reason": …}]}`, so that a
    # page of some web site is not mistaken for a yes.
    class Answer
      AGAIN = [408, 425, 429, 500, 502, 503, 504].freeze

      # @param status [Integer]
      # @param headers [Hash{String => String}] in small letters
      # @param body [String]
      # @param now [Time]
      def initialize(status, headers, body, now: Time.now.utc)
        @status = status
        @headers = headers
        @body = body.to_s.dup.force_encoding(Encoding::UTF_8).scrub.strip
        @now = now
      end

      # @return [Symbol] :taken, :again or :stop
      def verdict
        return :again if AGAIN.include?(@status)

        (200..299).cover?(@status) && (@body.empty? || refusals) ? :taken : :stop
      end

      # @return [Array<Hash>, nil] with `key` and `reason`; nil for an answer that cannot be read
      def refusals
        return [] if @body.empty?

        json = JSON.parse(@body, max_nesting: 10)
        list = json.is_a?(Hash) ? json.fetch("refused", []) : nil
        list if list.is_a?(Array) && list.all? { |row| row.is_a?(Hash) && row["key"].is_a?(String) }
      rescue JSON::ParserError
        nil
      end

      # @return [Float, nil] seconds to wait, by Retry-After (RFC 9110, section 10.2.3)
      def retry_after
        text = @headers["retry-after"] or return
        return text.to_f if text.match?(/\A\d+\z/)

        [Time.httpdate(text) - @now, 0].max
      rescue ArgumentError
        nil
      end

      # @return [String] what is wrong, in words
      def to_s
        case @status
        when 200..299
          "the destination returned #{kind} instead of JSON (#{@status}); check the URL"
        when 300..399
          "the destination redirected (#{@status}); enter the final URL"
        when 401, 403 then "the destination rejected the signature (#{@status}); check the secret"
        when 429 then "the destination is rate-limiting (429); send fewer people per message or per second"
        else "the destination answered #{@status}#{detail}"
        end
      end

      private

      def kind
        type = @headers["content-type"].to_s.split(";").first.to_s.strip
        return "a web page" if type == "text/html" || @body.match?(/\A<(!doctype|html)/i)

        type.empty? ? "something" : type
      end

      def detail
        json = JSON.parse(@body)
        said = json.is_a?(Hash) ? json["detail"] || json["message"] || json["error"] : nil
        said.is_a?(String) ? ": #{said[0, 200]}" : ""
      rescue JSON::ParserError
        ""
      end
    end
  end
end
