# frozen_string_literal: true

module EstrelServer
  module API
    # Signing in and out, and what an account does about itself.
    class SessionEndpoint < Endpoint
      include SigningIn

      DEMO = "demo@ferrowick.example"

      get("/session", role: "anybody", scope: "session", personal: "none") do
        account = Access::Current.account
        respond({ account: account && describe(account), **way_in, set_up: Account.exists? })
      end

      post("/session", role: "anybody", scope: "session", personal: "none") do
        hold(given["email"])
        account = Account.signing_in(given["email"], given["password"])
        unless account
          AuditEntry.add("sign-in refused", who: given["email"], from_address: peer)
          raise Problem.new(401, "email address or password is incorrect")
        end

        ask_for_code(account)
        sign_in(account)
      end

      # The demo's own account, on this machine only.
      post("/session/demo", role: "anybody", scope: "session", personal: "none") do
        raise Problem.new(403, "there is no demo on this server") unless demo?

        sign_in(Account.find_or_create_by!(email: DEMO) { |account| account.role = "administrator" })
      end

      # Sets a password by a one-time link.
      post("/session/link", role: "anybody", scope: "session", personal: "none") do
        hold(given["key"])
        account = OneTimeLink.use(given["key"], email: given["email"], password: given["password"]) do |found|
          ask_for_code(found)
        end
        sign_in(account)
      end

      delete("/session", role: "anybody", scope: "session", personal: "none") do
        session = AccountSession.of(Access::SessionCookie.read(request))
        AuditEntry.add("signed out", who: session.account.email, from_address: peer) if session
        session&.delete
        Access::SessionCookie.delete(response)
        respond({ account: nil, **way_in, set_up: true })
      end

      get("/account", role: "viewer", scope: "session", personal: "none", early: true) do
        tokens = account.api_tokens.order(id: :desc).map { |token| describe_token(token) }
        respond({ account: describe(account), tokens: tokens, scopes: ApiToken::SCOPES.keys, sessions: sessions,
                  password: !account.password_digest.nil?,
                  codes_left: account.second_factor.codes_left,
                  passkeys: account.passkeys.order(:id).map { |row| describe_passkey(row) } })
      end

      delete("/account/sessions", role: "viewer", scope: "session", personal: "none",
                                  early: true, log: "sessions ended") do
        account.account_sessions.where.not(id: Access::Current.bearer.session.id).delete_all
        respond({ sessions: sessions })
      end

      delete("/account/sessions/:id", role: "viewer", scope: "session", personal: "none",
                                      early: true, log: "session ended") do
        account.account_sessions.find(path_id).delete
        respond({ sessions: sessions })
      end

      # A secret, for whoever knows the password; see {Access::SecondFactor}.
      post("/account/second-factor", role: "viewer", scope: "session", personal: "none", early: true) do
        confirm_identity(given["password"])
        respond(account.second_factor.propose, status: 201)
      end

      put("/account/second-factor", role: "viewer", scope: "session", personal: "none",
                                    early: true, log: "two-factor authentication turned on") do
        hold(account.email)
        codes = account.second_factor.confirm(given["code"])
        open_session(account)
        respond({ codes: codes })
      end

      delete("/account/second-factor", role: "viewer", scope: "session", personal: "none", early: true,
                                       log: "two-factor authentication turned off") do
        confirm_identity(given["password"])
        account.second_factor.remove
        respond({ account: describe(account) })
      end

      put("/account/password", role: "viewer", scope: "session", personal: "none",
                               early: true, log: "password changed") do
        confirm_identity(given["before"])
        account.change_password(given["password"], remove_passkeys: given["remove_passkeys"] == true)
        sign_in(account)
      end

      post("/account/tokens", role: "viewer", scope: "session", personal: "none", log: "token created") do
        row, token = ApiToken.issue(account, given["name"].to_s.strip, given["scopes"])
        respond({ **describe_token(row), token: token }, status: 201)
      end

      delete("/account/tokens/:id", role: "viewer", scope: "session", personal: "none",
                                    log: "token revoked") do
        row = account.api_tokens.find(path_id)
        row.update!(revoked_at: Time.now.utc)
        respond(describe_token(row))
      end

      private

      # Where there is a second factor, the password alone lets nobody in.
      def ask_for_code(account)
        factor = account.second_factor
        return if !factor.on? || factor.passes?(given["code"])

        asked = given["code"].to_s.empty?
        AuditEntry.add("sign-in refused", who: account.email, from_address: peer) unless asked
        message = asked ? "enter the code from your authenticator app" : "the code is wrong, or has been used"
        raise Problem.new(401, message, [{ place: "code", message: message }])
      end

      def sessions
        account.account_sessions.alive.order(used_at: :desc).map do |row|
          { id: row.id, here: row.id == Access::Current.bearer.session.id, created_at: instant(row.created_at),
            used_at: instant(row.used_at), from_address: row.from_address.to_s, agent: row.agent.to_s }
        end
      end

      def describe_token(row)
        { id: row.id, name: row.name, hint: row.hint, scopes: row.scopes, created_at: instant(row.created_at),
          used_at: instant(row.used_at), revoked: !row.revoked_at.nil? }
      end
    end
  end
end
