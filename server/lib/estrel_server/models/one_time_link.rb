# frozen_string_literal: true

module EstrelServer
  # A way to set a password once: of an account, or, without an account, of the first administrator. A link issued by
  # another workspace than the first one sets the password of accounts that belong to that workspace alone; the
  # workspace that issues it cannot tell these from others.
  class OneTimeLink < InstallationRecord
    # Seconds.
    VALID_FOR = 7 * 86_400

    belongs_to :account, optional: true

    # @param account [Account, nil]
    # @return [String] the key in the link
    def self.issue(account = nil)
      workspace = (Workspaces.current.name unless Workspaces.current.first?)
      where(account: account, workspace: workspace).delete_all
      key = SecureRandom.urlsafe_base64(24)
      create!(account: account, workspace: workspace, digest: SendingKey.digest(key),
              expires_at: Time.now.utc + VALID_FOR)
      key
    end

    # Forgets those that are of no use any more.
    #
    # @return [void]
    def self.clear_old = where(expires_at: ...Time.now.utc).delete_all

    # Uses a link up.
    #
    # @param key [String]
    # @param email [String] of the first administrator
    # @param password [String]
    # @yieldparam account [Account] before anything is changed; raises where it may not be
    # @return [Account]
    # @raise [Error] where the link is of no use any more
    # @raise [ActiveRecord::RecordInvalid]
    def self.use(key, email:, password:)
      transaction do
        link = lock.where(expires_at: Time.now.utc..).find_by(digest: SendingKey.digest(key.to_s))
        raise Error, "this link has been used or has expired; ask for a new one" unless link
        raise Error, "choose a password" if password.to_s.empty?

        account = link.account || first_administrator(email)
        raise Error, ELSEWHERE unless link.workspace.nil? || account.of_workspace_alone?(link.workspace)

        yield account
        link.delete
        account.confirm if link.workspace.nil?
        account.change_password(password)
        account
      end
    end

    ELSEWHERE = "this address has an account already; sign in with it, or ask an administrator of the first " \
                "workspace for a new link"
    private_constant :ELSEWHERE

    def self.first_administrator(email)
      raise Error, "there is an administrator already" if Account.exists?(role: "administrator", disabled_at: nil)

      Account.create!(email: email, role: "administrator")
    end
    private_class_method :first_administrator
  end
end
