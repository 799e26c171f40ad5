# frozen_string_literal: true

require "zlib"

module EstrelServer
  module Collecting
    # Reads a request's body up to a limit, unpacking gzip as it goes, so that neither a long body nor one that unpacks
    # to a long one is ever held in memory.
    class RequestBody
      CHUNK = 65_536

      # @param env [Hash] the Rack environment
      # @param limit [Integer] bytes, unpacked
      def initialize(env, limit)
        @env = env
        @limit = limit
      end

      # @return [String]
      # @raise [Application::Refused]
      def read
        too_long if @env["CONTENT_LENGTH"].to_i > @limit

        case @env["HTTP_CONTENT_ENCODING"].to_s.downcase
        when "", "identity" then plain
        when "gzip" then unpacked
        else raise Application::Refused.new(415, "only gzip compression is read")
        end
      end

      private

      def plain
        text = @env["rack.input"]&.read(@limit + 1) || +""
        text.bytesize > @limit ? too_long : text
      end

      def unpacked
        inflate = Zlib::Inflate.new(Zlib::MAX_WBITS + 16)
        text = +""
        while (chunk = @env["rack.input"].read(CHUNK))
          inflate.inflate(chunk) { |part| (text << part).bytesize > @limit && too_long }
        end
        raise Application::Refused.new(400, "the gzip body is cut off") unless inflate.finished?

        text
      rescue Zlib::Error
        raise Application::Refused.new(400, "the body is not valid gzip")
      ensure
        inflate&.close
      end

      def too_long = raise(Application::Refused.new(413, "the request is longer than #{@limit} bytes"))
    end
  end
end
