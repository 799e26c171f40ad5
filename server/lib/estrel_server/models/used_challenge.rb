# frozen_string_literal: true

module EstrelServer
  # A challenge of a passkey that has been answered. It is stored until it expires, so that no answer counts twice.
  class UsedChallenge < InstallationRecord
    # Deletes expired challenges.
    #
    # @return [void]
    def self.clear_old = where(expires_at: ...Time.now.utc).delete_all

    # Marks a challenge as used. The unique index decides between simultaneous requests.
    #
    # @param challenge [String]
    # @param expires_at [Time]
    # @return [Boolean] false where it was used before
    def self.claim(challenge, expires_at:)
      create!(digest: SendingKey.digest(challenge), expires_at: expires_at)
      true
    rescue ActiveRecord::RecordNotUnique
      false
    end
  end
end
