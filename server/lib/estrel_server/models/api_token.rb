# frozen_string_literal: true

module EstrelServer
  # The right of a program to do in one workspace what its owner may, within scopes. The token is shown once; a digest
  # of it is kept.
  class ApiToken < InstallationRecord
    include Named

    PREFIX = "et_"
    # What a token can be for, and the role that holds each right.
    SCOPES = Access::Roles::BY_SCOPE

    attribute :scopes, :json
    belongs_to :account

    validate { errors.add(:scopes, "must be some of #{SCOPES.keys.join(", ")}") unless scopes_known? }

    scope :usable, -> { where(revoked_at: nil) }

    # @param account [Account]
    # @param name [String]
    # @param scopes [Array<String>]
    # @return [Array(ApiToken, String)] the record, and the token to show once
    def self.issue(account, name, scopes)
      token = Workspaces::Key.make(PREFIX)
      [create!(account: account, name: name, scopes: scopes, digest: SendingKey.digest(token),
               hint: Workspaces::Key.hint(token), workspace: Workspaces.current.name), token]
    end

    # @param token [String, nil]
    # @param note_use [Boolean] whether it counts as used by this
    # @return [ApiToken, nil] for the workspace that this thread works in, of an account that may sign in
    def self.of(token, note_use: true)
      row = token && usable.includes(:account).find_by(digest: SendingKey.digest(token),
                                                       workspace: Workspaces.current.name)
      return if row.nil? || row.account.disabled_at

      row.note_use if note_use && (row.used_at.nil? || row.used_at < Time.now.utc - 60)
      row
    end

    private

    def scopes_known? = scopes.is_a?(Array) && scopes.any? && (scopes - SCOPES.keys).empty?
  end
end
