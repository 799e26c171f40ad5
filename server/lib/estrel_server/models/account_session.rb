# frozen_string_literal: true

module EstrelServer
  # A browser in which somebody is signed in. The key is in its cookie only; a digest of it is kept.
  class AccountSession < InstallationRecord
    # Ends after so long without use, and after so long in all, seconds.
    IDLE = 12 * 3600
    LONGEST = 7 * 86_400
    # How often the last use is noted, seconds.
    NOTE_USE = 60

    belongs_to :account

    scope :alive, lambda { |now = Time.now.utc|
      where(created_at: (now - LONGEST).., used_at: (now - IDLE)..)
    }

    # Forgets those that have ended.
    #
    # @return [void]
    def self.clear_old = where.not(id: alive.select(:id)).delete_all

    # @param account [Account]
    # @param from_address [String, nil] of the peer
    # @param agent [String, nil] what the browser says of itself
    # @param through [String] "password" or "provider"
    # @return [String] the key
    def self.open(account, from_address: nil, agent: nil, through: "password")
      key = SecureRandom.urlsafe_base64(32)
      now = Time.now.utc
      create!(account: account, digest: SendingKey.digest(key), created_at: now, used_at: now,
              through: through, from_address: from_address.to_s[0, 64], agent: agent.to_s.scrub[0, 255])
      key
    end

    # @param key [String, nil]
    # @param note_use [Boolean] whether it counts as used by this
    # @return [AccountSession, nil] of an account that may sign in
    def self.of(key, note_use: true)
      session = key && alive.includes(:account).find_by(digest: SendingKey.digest(key))
      return if session.nil? || session.account.disabled_at

      session.note_use if note_use && session.used_at < Time.now.utc - NOTE_USE
      session
    end
  end
end
