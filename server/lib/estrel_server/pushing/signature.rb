# frozen_string_literal: true

require "base64"
require "openssl"

module EstrelServer
  module Pushing
    # Signs messages as the Standard Webhooks specification, version 1, says: HMAC-SHA256 of "id.timestamp.body" under a
    # secret shared with the receiver. Frozen.
    class Signature
      PREFIX = "whsec_"
      # Bytes of a secret, by the specification.
      SIZE = (24..64)

      # Raised for what is no secret.
      class Invalid < Error; end

      # @return [String] a new secret
      def self.secret = PREFIX + Base64.strict_encode64(SecureRandom.bytes(32))

      # @param secret [String] "whsec_" and 24 to 64 bytes in Base64
      # @raise [Invalid]
      def initialize(secret)
        @key = Base64.strict_decode64(secret.to_s.delete_prefix(PREFIX))
        raise Invalid, FORM unless secret.to_s.start_with?(PREFIX) && SIZE.cover?(@key.bytesize)

        freeze
      rescue ArgumentError
        raise Invalid, FORM
      end

      # @param id [String] of the message
      # @param timestamp [Integer] seconds since the epoch, of the attempt
      # @param body [String]
      # @return [Hash{String => String}] the three headers
      def headers(id, timestamp, body)
        mac = OpenSSL::HMAC.digest("SHA256", @key, "#{id}.#{timestamp}.#{body}")
        { "webhook-id" => id, "webhook-timestamp" => timestamp.to_s,
          "webhook-signature" => "v1,#{Base64.strict_encode64(mac)}" }
      end

      FORM = "the secret is #{PREFIX} followed by #{SIZE.min} to #{SIZE.max} bytes in Base64".freeze
      private_constant :FORM
    end
  end
end
