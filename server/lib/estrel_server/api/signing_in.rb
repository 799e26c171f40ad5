# frozen_string_literal: true

module EstrelServer
  module API
    # What endpoints have in common by which somebody comes in, or changes how they do.
    module SigningIn
      LOOPBACK = ["127.0.0.1", "::1"].freeze
      WAIT = "too many attempts; try again in a minute"
      # Seconds after signing in during which an account without a password needs no other confirmation.
      FRESH = 600
      private_constant :LOOPBACK, :WAIT, :FRESH

      private

      def account = @account ||= Access::Current.account

      # The demo's own loader says that it is one; the first data of somebody's own ends it.
      def demo?
        EstrelServer.settings.demo && LOOPBACK.include?(peer) && !request.env["estrel.proxied"] &&
          Workspace.current.demo
      end

      def hold(account)
        raise Endpoint::Problem.new(429, WAIT) if attempts.too_many?(account, peer)
      end

      def attempts = @attempts ||= Access::Attempts.new(EstrelServer.settings.attempts_directory)

      # Before ways to sign in are added or removed: the password, or, for an account without one, a fresh sign-in by
      # passkey or provider.
      def confirm_identity(password)
        hold(account.email)
        return confirm_fresh_sign_in if account.password_digest.nil?
        return if account.authenticate(password.to_s)

        raise Endpoint::Problem.new(422, "the current password is wrong")
      end

      def confirm_fresh_sign_in
        return if Access::Current.bearer.session.created_at > Time.now.utc - FRESH

        raise Endpoint::Problem.new(403, "your account has no password to confirm this with; sign out, sign in " \
                                         "again, and repeat this within #{FRESH / 60} minutes")
      end

      def sign_in(account, through: "password")
        about = through == "password" ? "" : through
        AuditEntry.add("signed in", who: account.email, from_address: peer, about: about)
        open_session(account, through: through)
        respond({ account: describe(account), **way_in, set_up: true })
      end

      # Besides the password.
      def way_in
        settings = EstrelServer.settings
        { demo: demo?, provider: settings.oidc_issuer && settings.oidc_name, passkeys: Access::Passkeys.usable? }
      end

      def open_session(account, through: "password")
        key = AccountSession.open(account, from_address: peer, agent: request.user_agent, through: through)
        Access::SessionCookie.set(response, key)
      end

      def describe(account)
        { id: account.id, email: account.email, role: account.role_here, second_factor: account.second_factor.state,
          workspaces: workspaces(account) }
      end

      # Those that somebody may go to.
      def workspaces(account)
        titles = InstalledWorkspace.pluck(:name, :title).to_h
        account.roles.map do |name, role|
          { name: name, title: titles.fetch(name, "Main"), role: role, base: Workspaces.place(name).base,
            here: name == Workspaces.current.name }
        end
      end

      def describe_passkey(row)
        { id: row.id, name: row.name, created_at: instant(row.created_at), used_at: instant(row.used_at) }
      end
    end
  end
end
