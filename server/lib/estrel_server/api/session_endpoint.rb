# frozen_string_literal: true

module EstrelServer
  module API
    # Signing in and out, and what an account does about itself.
    class SessionEndpoint < Endpoint
      LOOPBACK = ["127.0.0.1", "::1"].freeze
      WAIT = "too many attempts; try again in a minute"
      DEMO = "demo@ferrowick.example"

      get("/session", role: "anybody", scope: "session", personal: "none") do
        account = Access::Current.account
        respond({ account: account && describe(account), demo: demo?, set_up: Account.exists? })
      end

      post("/session", role: "anybody", scope: "session", personal: "none") do
        hold(given["email"])
        account = Account.signing_in(given["email"], given["password"])
        unless account
          AuditEntry.add("sign-in refused", who: given["email"], from_address: peer)
          raise Problem.new(401, "the address or the password is wrong")
        end

        sign_in(account)
      end

      # The demo's own account, on this machine only.
      post("/session/demo", role: "anybody", scope: "session", personal: "none") do
        raise Problem.new(403, "there is no demo here") unless demo?

        sign_in(Account.find_or_create_by!(email: DEMO) { |account| account.role = "administrator" })
      end

      # Sets a password by a one-time link.
      post("/session/link", role: "anybody", scope: "session", personal: "none") do
        hold(given["key"])
        sign_in(OneTimeLink.use(given["key"], email: given["email"], password: given["password"]))
      end

      delete("/session", role: "anybody", scope: "session", personal: "none") do
        session = AccountSession.of(request.cookies[Access::Gate::COOKIE])
        AuditEntry.add("signed out", who: session.account.email, from_address: peer) if session
        session&.delete
        response.delete_cookie(Access::Gate::COOKIE, path: "/")
        respond({ account: nil, demo: demo?, set_up: true })
      end

      get("/account", role: "viewer", scope: "session", personal: "none") do
        tokens = account.api_tokens.order(id: :desc).map { |token| describe_token(token) }
        respond({ account: describe(account), tokens: tokens, scopes: ApiToken::SCOPES.keys })
      end

      put("/account/password", role: "viewer", scope: "session", personal: "none", log: "password changed") do
        hold(account.email)
        unless account.password_digest.nil? || account.authenticate(given["before"].to_s)
          raise Problem.new(422, "the current password is wrong")
        end

        account.change_password(given["password"])
        sign_in(account)
      end

      post("/account/tokens", role: "viewer", scope: "session", personal: "none", log: "token issued") do
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

      def account = @account ||= Access::Current.account

      # The demo's own loader says that it is one; the first data of somebody's own ends it.
      def demo?
        EstrelServer.settings.demo && LOOPBACK.include?(peer) && !request.env["estrel.proxied"] &&
          Workspace.current.demo
      end

      def hold(account)
        raise Problem.new(429, WAIT) if attempts.too_many?(account, peer)
      end

      def attempts = @attempts ||= Access::Attempts.new(EstrelServer.settings.attempts_directory)

      def sign_in(account)
        AuditEntry.add("signed in", who: account.email, from_address: peer)
        response.set_cookie(Access::Gate::COOKIE, value: AccountSession.open(account), path: "/", httponly: true,
                                                  same_site: :strict, secure: EstrelServer.settings.https?)
        respond({ account: describe(account), demo: demo?, set_up: true })
      end

      def describe(account) = { id: account.id, email: account.email, role: account.role }

      def describe_token(row)
        { id: row.id, name: row.name, hint: row.hint, scopes: row.scopes, created_at: instant(row.created_at),
          used_at: instant(row.used_at), revoked: !row.revoked_at.nil? }
      end
    end
  end
end
