# frozen_string_literal: true

require "webauthn"

module EstrelServer
  module Access
    # Signing in by a key that a device holds, after it has made sure that its owner is there (Web Authentication,
    # level 2). The device's answer contains a challenge, see {PasskeyChallenge}, and the address at which it was asked,
    # so that no other site can pass it on.
    class Passkeys
      # Raised for what cannot be believed.
      class Refused < Error; end

      REFUSED = "passkey not recognised or timed out; try again"
      # Only whoever holds the device, and has shown it that they do.
      WANTED = { resident_key: "required", user_verification: "required" }.freeze
      private_constant :REFUSED, :WANTED

      # @param settings [Settings]
      # @return [Boolean] whether there can be any: they belong to a name, not to the number of a machine
      def self.usable?(settings = EstrelServer.settings)
        IPAddr.new(URI.parse(settings.public_url).hostname)
        false
      rescue IPAddr::Error
        true
      end

      # @param settings [Settings]
      def initialize(settings = EstrelServer.settings)
        @party = WebAuthn::RelyingParty.new(allowed_origins: [settings.public_url], name: "Estrel",
                                            id: URI.parse(settings.public_url).hostname)
      end

      # @param account [Account]
      # @return [WebAuthn::PublicKeyCredential::CreationOptions] for a device to make a key by
      def for_making(account)
        account.update!(passkey_handle: WebAuthn.generate_user_id) if account.passkey_handle.nil?
        @party.options_for_registration(
          user: { id: account.passkey_handle, name: account.email, display_name: account.email },
          exclude: account.passkeys.pluck(:external_id), attestation: "none", authenticator_selection: WANTED
        )
      end

      # @param account [Account]
      # @param answer [Hash] of the device
      # @param challenge [String] that it was given
      # @param name [String] what its owner calls it
      # @return [Passkey]
      # @raise [Refused]
      def add(account, answer, challenge, name)
        made = checked { @party.verify_registration(answer, challenge.to_s, user_verification: true) }
        account.passkeys.create!(external_id: made.id, public_key: made.public_key, sign_count: made.sign_count,
                                 name: name.to_s.strip, created_at: Time.now.utc)
      end

      # @return [WebAuthn::PublicKeyCredential::RequestOptions] for a device to answer by
      def for_asking = @party.options_for_authentication(user_verification: "required")

      # @param answer [Hash] of the device
      # @param challenge [String] that it was given
      # @return [Account] whose passkey it is
      # @raise [Refused]
      def account(answer, challenge)
        passkey = Passkey.find_by(external_id: answer["id"].to_s) or raise Refused, REFUSED
        passkey.with_lock do
          raise Refused, REFUSED if passkey.account.disabled_at

          shown = checked { shown_by(passkey, answer, challenge) }
          passkey.update!(sign_count: shown.sign_count, used_at: Time.now.utc)
        end
        passkey.account
      end

      private

      def shown_by(passkey, answer, challenge)
        @party.verify_authentication(answer, challenge.to_s, user_verification: true, public_key: passkey.public_key,
                                                             sign_count: passkey.sign_count)
      end

      # Whatever is wrong with what was sent.
      def checked
        yield or raise Refused, REFUSED
      rescue StandardError => e
        raise e.is_a?(Refused) ? e : Refused.new(REFUSED)
      end
    end
  end
end
