# frozen_string_literal: true

require "openssl"

module EstrelServer
  module Parts
    # Tells messages of our own processes, on whatever machine, from all others: whoever has the key of secrets, and
    # runs the same code, can seal and open them. What a message is for is sealed with it, so that none can stand for
    # another. It hides nothing: that is up to the connection.
    class Seal
      SIZE = 32
      private_constant :SIZE

      # @param settings [Settings]
      def initialize(settings)
        @key = Settings::Secrets.key(settings, "parts, by #{Estrel::EDITION}")
      end

      # @return [String] by which processes of one installation find each other; tells nothing of the key
      def name = @name ||= digest("name", "").unpack1("H*")[0, 16]

      # @param purpose [String]
      # @param bytes [String]
      # @return [String]
      def close(purpose, bytes) = digest(purpose, bytes) + bytes

      # @param purpose [String]
      # @param sealed [String]
      # @return [String, nil] what was sealed for this purpose; nil where it was not
      def open(purpose, sealed)
        return if sealed.bytesize < SIZE

        bytes = sealed.byteslice(SIZE..)
        bytes if OpenSSL.fixed_length_secure_compare(digest(purpose, bytes), sealed.byteslice(0, SIZE))
      end

      private

      def digest(purpose, bytes)
        OpenSSL::HMAC.digest("SHA256", @key, [purpose.bytesize].pack("N") + purpose + bytes)
      end
    end
  end
end
