# frozen_string_literal: true

module EstrelServer
  module API
    # Signing in by a passkey, and the passkeys of an account.
    class PasskeysEndpoint < Endpoint
      include SigningIn

      # Holds the challenge, which nobody else can read or make.
      COOKIE = "estrel_passkey"
      # Seconds for which it is good.
      LONGEST = 300
      private_constant :COOKIE, :LONGEST

      post("/session/passkey/begin", role: "anybody", scope: "session", personal: "none") do
        respond(given_to_device(passkeys.for_asking))
      end

      post("/session/passkey", role: "anybody", scope: "session", personal: "none") do
        answer = given.fetch("credential")
        hold(answer["id"].to_s)
        found = passkeys.account(answer, challenge)
        sign_in(found, through: "passkey")
      rescue Access::Passkeys::Refused => e
        AuditEntry.add("sign-in refused", who: "unknown", from_address: peer, about: "passkey")
        raise Problem.new(401, e.message)
      end

      post("/account/passkeys/begin", role: "viewer", scope: "session", personal: "none", early: true) do
        check_password(given["password"])
        respond(given_to_device(passkeys.for_making(account)), status: 201)
      end

      post("/account/passkeys", role: "viewer", scope: "session", personal: "none",
                                early: true, log: "passkey added") do
        row = passkeys.add(account, given.fetch("credential"), challenge, given["name"])
        respond(describe_passkey(row), status: 201)
      end

      delete("/account/passkeys/:id", role: "viewer", scope: "session", personal: "none",
                                      early: true, log: "passkey taken away") do
        row = account.passkeys.find(path_id)
        row.destroy
        respond(describe_passkey(row))
      end

      private

      def passkeys
        raise Problem.new(409, "passkeys need Estrel to have a name; set ESTREL_PUBLIC_URL") unless
          Access::Passkeys.usable?

        @passkeys ||= Access::Passkeys.new
      end

      # The challenge goes along in a cookie.
      def given_to_device(options)
        kept = secret.encrypt_and_sign(options.challenge, expires_in: LONGEST)
        response.set_cookie(COOKIE, value: kept, path: "/api", httponly: true, same_site: :strict,
                                    secure: EstrelServer.settings.https?)
        { options: options.as_json }
      end

      # @return [String, nil] that of this browser, once
      def challenge
        response.delete_cookie(COOKIE, path: "/api", secure: EstrelServer.settings.https?)
        secret.decrypt_and_verify(request.cookies[COOKIE].to_s)
      rescue ActiveSupport::MessageEncryptor::InvalidMessage
        nil
      end

      def secret
        @secret ||= ActiveSupport::MessageEncryptor.new(Settings::Secrets.key(EstrelServer.settings, "passkeys"),
                                                        cipher: "aes-256-gcm", serializer: JSON)
      end
    end
  end
end
