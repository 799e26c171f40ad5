# frozen_string_literal: true

module EstrelServer
  # The right to send events as one source. The key itself is shown once and never stored; a digest of it is. A fast
  # digest will do: keys are 32 random bytes, so there is nothing to guess.
  class SendingKey < Record
    PREFIX = "ek_"
    # How long the keys before still work after a rotation, hours.
    MAX_OVERLAP = 24 * 30

    belongs_to :source

    scope :usable, -> { where(revoked_at: nil).where("expires_at IS NULL OR expires_at > ?", Time.now.utc) }

    # @param source [Source]
    # @param demo [Boolean] whether it belongs to the demo's own stand-in, whose events are nobody's data
    # @return [Array(SendingKey, String)] the record, and the key to show once
    def self.issue(source, demo: false)
      key = Workspaces::Key.make(PREFIX)
      [create!(source: source, digest: digest(key), hint: Workspaces::Key.hint(key), created_at: Time.now.utc,
               demo: demo), key]
    end

    # @param key [String]
    # @return [String]
    def self.digest(key) = Digest::SHA256.hexdigest(key)

    # @return [String] "in use", "ending", "expired" or "revoked"
    def state
      return "revoked" if revoked_at
      return "in use" unless expires_at

      expires_at > Time.now.utc ? "ending" : "expired"
    end
  end
end
