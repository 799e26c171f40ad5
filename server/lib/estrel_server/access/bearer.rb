# frozen_string_literal: true

module EstrelServer
  module Access
    # Who asks: somebody signed in with a browser, or a program with a token of theirs, which may do no more than its
    # scopes and its owner's role allow.
    class Bearer
      # @return [Account]
      attr_reader :account

      # @param account [Account]
      # @param scopes [Array<String>, nil] of a token; nil for a session
      def initialize(account, scopes: nil)
        @account = account
        @scopes = scopes
        freeze
      end

      # @return [Boolean]
      def token? = !@scopes.nil?

      # A wider scope holds the narrower ones.
      #
      # @param scope [String] of {Rule::SCOPES}
      # @return [Boolean]
      def scope?(scope) = !token? || rank(most_of_scopes) >= rank(Roles::BY_SCOPE.fetch(scope))

      # @return [String] of {Roles::ALL}
      def role
        return account.role unless token?

        [most_of_scopes, account.role].min_by { |role| rank(role) }
      end

      # @param role [String]
      # @return [Boolean]
      def at_least?(role) = rank(self.role) >= rank(role)

      # @return [Boolean] whether names, addresses and identifiers are shown
      def sees_personal? = at_least?("analyst")

      private

      def rank(role) = Roles::ALL.index(role)

      def most_of_scopes = @scopes.map { |scope| Roles::BY_SCOPE.fetch(scope) }.max_by { |role| rank(role) }
    end
  end
end
