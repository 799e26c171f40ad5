# frozen_string_literal: true

module EstrelServer
  module Access
    # Who asks: somebody signed in with a browser, or a program with a token of theirs, which may do no more than its
    # scopes and its owner's role allow.
    class Bearer
      # @param request [Rack::Request]
      # @param note_use [Boolean] whether the session or token counts as used by this
      # @return [Bearer, nil] who asks, by a token or by the cookie of a session
      def self.of(request, note_use: true)
        authorization = request.get_header("HTTP_AUTHORIZATION").to_s
        if authorization.start_with?("Bearer ")
          token = ApiToken.of(authorization.delete_prefix("Bearer "), note_use: note_use)
          return token && new(token.account, scopes: token.scopes)
        end
        session = AccountSession.of(SessionCookie.read(request), note_use: note_use)
        session && new(session.account, session: session)
      end

      # @return [Account]
      attr_reader :account
      # @return [AccountSession, nil] nil for a token
      attr_reader :session

      # @param account [Account]
      # @param scopes [Array<String>, nil] of a token; nil for a session
      # @param session [AccountSession, nil]
      def initialize(account, scopes: nil, session: nil)
        @account = account
        @scopes = scopes
        @session = session
        freeze
      end

      # @return [Boolean]
      def token? = !@scopes.nil?

      # Whoever comes from a provider has shown there what is asked for there.
      #
      # @return [Boolean] whether a second factor has to be set up before anything else
      def held_up? = !token? && session&.through != "provider" && account.second_factor.missing?

      # A wider scope holds the narrower ones.
      #
      # @param scope [String] of {Rule::SCOPES}
      # @return [Boolean]
      def scope?(scope) = !token? || rank(most_of_scopes) >= rank(Roles::BY_SCOPE.fetch(scope))

      # @return [String, nil] of {Roles::ALL}, in the workspace that is asked; nil for none
      def role
        return account.role_here unless token? && account.role_here

        [most_of_scopes, account.role_here].min_by { |role| rank(role) }
      end

      # @param role [String]
      # @return [Boolean]
      def at_least?(role) = !self.role.nil? && rank(self.role) >= rank(role)

      # @return [Boolean] whether names, addresses and identifiers are shown
      def sees_personal? = at_least?("analyst")

      private

      def rank(role) = Roles::ALL.index(role)

      def most_of_scopes = @scopes.map { |scope| Roles::BY_SCOPE.fetch(scope) }.max_by { |role| rank(role) }
    end
  end
end
