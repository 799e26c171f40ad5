# frozen_string_literal: true

require "openssl"

module EstrelServer
  module Parts
    # Authenticates messages between processes of this installation, on whatever machine: only processes that have the
    # key of secrets and run the same code can seal and open them. The purpose of a message is sealed with it, so that
    # no message can stand for another. Each has a time and a nonce, by which a recorded message that is sent once more
    # is rejected. The contents are not hidden: that is up to the connection.
    class Seal
      SIZE = 32
      # The time of a message, microseconds, and its nonce.
      HEAD = "Q>a16"
      HEAD_SIZE = 24
      # Seconds for which a message is accepted; clocks may differ by as much.
      VALID_FOR = 60
      private_constant :SIZE, :HEAD, :HEAD_SIZE, :VALID_FOR

      # @param settings [Settings]
      # @param clock [#call] the time, seconds
      def initialize(settings, clock: -> { Process.clock_gettime(Process::CLOCK_REALTIME) })
        @key = Settings::Secrets.key(settings, "parts, by #{Estrel::EDITION}")
        @clock = clock
        @lock = Mutex.new
        @nonces = {}
      end

      # @return [String] by which processes of one installation find each other; reveals nothing of the key
      def name = @name ||= digest("name", "").unpack1("H*")[0, 16]

      # @param purpose [String]
      # @param bytes [String]
      # @return [String]
      def close(purpose, bytes)
        dated = [(@clock.call * 1_000_000).round, SecureRandom.bytes(16)].pack(HEAD) + bytes
        digest(purpose, dated) + dated
      end

      # @param purpose [String]
      # @param sealed [String]
      # @return [String, nil] what was sealed for this purpose; nil for any other, for an old message and for one that
      #   was opened before
      def open(purpose, sealed)
        return if sealed.bytesize < SIZE + HEAD_SIZE

        dated = sealed.byteslice(SIZE..)
        return unless OpenSSL.fixed_length_secure_compare(digest(purpose, dated), sealed.byteslice(0, SIZE))

        micros, nonce = dated.unpack(HEAD)
        dated.byteslice(HEAD_SIZE..) if fresh?(micros / 1_000_000.0, purpose + nonce)
      end

      private

      def digest(purpose, bytes)
        OpenSSL::HMAC.digest("SHA256", @key, [purpose.bytesize].pack("N") + purpose + bytes)
      end

      # Nonces are remembered for as long as their messages would be accepted.
      def fresh?(sealed_at, nonce)
        now = @clock.call
        return false if (now - sealed_at).abs > VALID_FOR

        @lock.synchronize do
          forget_old(now)
          @nonces.key?(nonce) ? false : @nonces[nonce] = sealed_at
        end
      end

      # In the order in which messages came, which is nearly that of their times.
      def forget_old(now)
        @nonces.shift while @nonces.any? && @nonces.first.last < now - VALID_FOR
      end
    end
  end
end
