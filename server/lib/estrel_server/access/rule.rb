# frozen_string_literal: true

module EstrelServer
  module Access
    # What a route declares of itself: who may ask, which scope a token needs for it, what becomes of personal data in
    # its answer, and what is written into the log. A route that declares nothing cannot be made.
    class Rule
      # Whoever is asked for nothing.
      ANYBODY = "anybody"
      # For what a person does about her own account in a browser; no token can hold it.
      SESSION = "session"
      SCOPES = [*Roles::BY_SCOPE.keys, SESSION].freeze
      # `none`: there is none in the answer; `masked`: viewers get it masked; `raw`: the answer as a whole is not for
      # viewers, since personal data can stand anywhere in it.
      PERSONAL = %w[none masked raw].freeze

      NOTHING_TO_DO = "you do not have access to this workspace; ask one of its administrators"
      private_constant :NOTHING_TO_DO

      # @return [String] of {Roles::ALL}, or {ANYBODY}
      attr_reader :role
      # @return [String] of {SCOPES}
      attr_reader :scope
      # @return [String] of {PERSONAL}
      attr_reader :personal
      # @return [String, nil] the action, as the log names it
      attr_reader :log

      # @param role [String]
      # @param scope [String]
      # @param personal [String]
      # @param log [String, nil]
      # @param heavy [Boolean] whether an answer may take seconds, see {Answers::Turns}
      # @param early [Boolean] whether it may be asked while a second factor has to be set up
      # @raise [ArgumentError] for what makes no sense
      def initialize(role:, scope:, personal:, log: nil, heavy: false, early: false)
        raise ArgumentError, "role #{role.inspect}" unless [ANYBODY, *Roles::ALL].include?(role)
        raise ArgumentError, "scope #{scope.inspect}" unless SCOPES.include?(scope)
        raise ArgumentError, "personal #{personal.inspect}" unless PERSONAL.include?(personal)
        raise ArgumentError, "viewers cannot see raw data" if personal == "raw" && %w[anybody viewer].include?(role)

        @role = role
        @scope = scope
        @personal = personal
        @log = log
        @heavy = heavy
        @early = early
        freeze
      end

      # @return [Boolean]
      def heavy? = @heavy

      # @return [Boolean] whether it is about the own account, which is the same in all workspaces
      def own? = scope == SESSION && role == "viewer"

      # @param bearer [Bearer, nil] who asks
      # @return [String, nil] why not, as a sentence; nil where it may be answered
      def refusal(bearer)
        return if role == ANYBODY
        return "sign in first" if bearer.nil?
        return "this cannot be done with an API token; sign in instead" if scope == SESSION && bearer.token?
        return "set up two-factor authentication first, under Account" if bearer.held_up? && !@early
        return "this needs a token with the scope #{scope}" unless bearer.scope?(scope)

        return if own? || bearer.at_least?(role)

        bearer.role ? "only #{role}s can do this" : NOTHING_TO_DO
      end
    end
  end
end
