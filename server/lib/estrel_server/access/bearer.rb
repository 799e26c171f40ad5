# frozen_string_literal: true

module EstrelServer
  module Access
    # Who asks: somebody signed in with a browser, or a program with a token of theirs, which may do no more than its
    # scopes and its owner's role allow.
    class Bearer
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
