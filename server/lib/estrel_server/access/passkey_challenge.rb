# frozen_string_literal: true

module EstrelServer
  module Access
    # Seals the challenge of a passkey ceremony into a cookie, with its purpose, its account and the time it expires. A
    # challenge for signing in is therefore worthless for registration, and one account's for another account. Each is
    # accepted once.
    class PasskeyChallenge
      # Seconds for which a challenge is valid.
      VALID_FOR = 300
      private_constant :VALID_FOR

      # @return [PasskeyChallenge] for a sign-in, where the account is not known yet
      def self.for_sign_in = new("passkey sign-in")

      # @param account [Account]
      # @return [PasskeyChallenge] for adding a passkey to this account
      def self.for_registration(account) = new("passkey registration #{account.id}")

      # @param purpose [String]
      def initialize(purpose)
        @purpose = purpose
      end

      # @param challenge [String]
      # @return [String] for a cookie
      def seal(challenge)
        expires_at = Time.now.utc + VALID_FOR
        secret.encrypt_and_sign([challenge, expires_at.to_i], purpose: @purpose, expires_at: expires_at)
      end

      # @param sealed [String]
      # @return [String, nil] the challenge; nil where it was sealed for another purpose, expired or has been used
      def open(sealed)
        challenge, expires_at = secret.decrypt_and_verify(sealed, purpose: @purpose)
        challenge if challenge && UsedChallenge.claim(challenge, expires_at: Time.at(expires_at).utc)
      rescue ActiveSupport::MessageEncryptor::InvalidMessage
        nil
      end

      private

      def secret
        @secret ||= ActiveSupport::MessageEncryptor.new(Settings::Secrets.key(EstrelServer.settings, "passkeys"),
                                                        cipher: "aes-256-gcm", serializer: JSON)
      end
    end
  end
end
