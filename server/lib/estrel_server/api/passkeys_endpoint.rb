# frozen_string_literal: true

module EstrelServer
  module API
    # Signing in by a passkey, and the passkeys of an account.
    class PasskeysEndpoint < Endpoint
      include SigningIn

      # Holds the sealed challenge, see {Access::PasskeyChallenge}.
      COOKIE = "estrel_passkey"
      private_constant :COOKIE

      post("/session/passkey/begin", role: "anybody", scope: "session", personal: "none") do
        respond(send_challenge(passkeys.for_asking, Access::PasskeyChallenge.for_sign_in))
      end

      post("/session/passkey", role: "anybody", scope: "session", personal: "none") do
        answer = given.fetch("credential")
        hold(answer["id"].to_s)
        owner = passkeys.account(answer, challenge(Access::PasskeyChallenge.for_sign_in))
        sign_in(owner, through: "passkey")
      rescue Access::Passkeys::Refused => e
        AuditEntry.add("sign-in refused", who: "unknown", from_address: peer, about: "passkey")
        raise Problem.new(401, e.message)
      end

      post("/account/passkeys/begin", role: "viewer", scope: "session", personal: "none", early: true) do
        confirm_identity(given["password"])
        respond(send_challenge(passkeys.for_making(account), registration), status: 201)
      end

      post("/account/passkeys", role: "viewer", scope: "session", personal: "none",
                                early: true, log: "passkey added") do
        row = passkeys.add(account, given.fetch("credential"), challenge(registration), given["name"])
        respond(describe_passkey(row), status: 201)
      end

      delete("/account/passkeys/:id", role: "viewer", scope: "session", personal: "none",
                                      early: true, log: "passkey removed") do
        row = account.passkeys.find(path_id)
        row.destroy
        respond(describe_passkey(row))
      end

      private

      def passkeys
        raise Problem.new(409, "passkeys need a host name; set ESTREL_PUBLIC_URL") unless
          Access::Passkeys.usable?

        @passkeys ||= Access::Passkeys.new
      end

      def registration = Access::PasskeyChallenge.for_registration(account)

      # The challenge travels in a cookie.
      def send_challenge(options, challenge)
        response.set_cookie(COOKIE, value: challenge.seal(options.challenge), path: "/api", httponly: true,
                                    same_site: :strict, secure: EstrelServer.settings.https?)
        { options: options.as_json }
      end

      # @return [String, nil] the challenge that this browser was given for this purpose, once
      def challenge(purpose)
        response.delete_cookie(COOKIE, path: "/api", secure: EstrelServer.settings.https?)
        purpose.open(request.cookies[COOKIE].to_s)
      end
    end
  end
end
