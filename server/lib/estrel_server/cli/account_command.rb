# frozen_string_literal: true

module EstrelServer
  module CLI
    # Accounts on the command line: whoever runs Estrel can always let somebody in.
    class AccountCommand
      # @param shell [#say]
      # @param settings [Settings]
      def initialize(shell, settings)
        @shell = shell
        @settings = settings
      end

      # @return [void]
      def list
        Account.roles_here.sort_by { |row, _| row.email }.each do |row, role|
          more = [("deactivated" if row.disabled_at), ("no password yet" unless row.password_digest)].compact
          @shell.say [row.email, role, *more].join(", ")
        end
      end

      # @param email [String]
      # @param role [String]
      # @return [void]
      def add(email, role)
        row = Account.named(email)
        raise Error, "#{row.email} has an account already" if row.persisted? && row.role_here

        row.update!(role: Account::NO_ROLE) if row.new_record?
        row.change_role(role)
        note("account made", row)
        row.password_digest ? @shell.say("#{row.email} signs in as before") : link(row.email)
      end

      # @param email [String]
      # @return [void]
      def link(email)
        row = found(email)
        note("password link made", row)
        @shell.say "one-time link to set the password: #{address(OneTimeLink.issue(row))}"
      end

      # Takes away the second factor and the passkeys of somebody whose phone and codes are gone.
      #
      # @param email [String]
      # @return [void]
      def reset(email)
        row = found(email)
        note("second factor taken away", row)
        row.forget_devices
        @shell.say "two-factor authentication of #{row.email} has been reset"
      end

      # @param email [String]
      # @param scopes [Array<String>]
      # @return [void]
      def token(email, scopes)
        row = found(email)
        note("token issued", row)
        @shell.say "token, shown this once: #{ApiToken.issue(row, "made on the command line", scopes).last}"
      end

      # Where nobody can administer yet, the way to begin.
      #
      # @return [void]
      def first
        return if Account.usable.exists?(role: "administrator")

        @shell.say "Create the first administrator at: #{address(OneTimeLink.issue)}"
      end

      private

      def found(email)
        Account.find_by(email: email.to_s.downcase) || raise(Error, "there is no account #{email.inspect}")
      end

      def note(action, row) = AuditEntry.add(action, who: "command line", about: row.email)

      def address(key) = "#{@settings.public_url}/link/#{key}"
    end
  end
end
