# frozen_string_literal: true

require "zxcvbn"

module EstrelServer
  # Somebody who uses Estrel. Until a password has been set by a one-time link, nobody can sign in as them.
  class Account < Record
    # From the least to the most that can be done.
    ROLES = Access::Roles::ALL
    EMAIL = /\A[^@\s]+@[^@\s]+\z/ # linear: neither part can take the @ between them
    MIN_PASSWORD = 12
    # bcrypt looks at no more bytes.
    MAX_PASSWORD = 72
    # From 0 to 4: below, few enough tries find it for somebody who knows the usual ones, and ours (D. L. Wheeler,
    # Proceedings of the 25th USENIX Security Symposium (2016), 157–173).
    LEAST_SCORE = 3
    private_constant :LEAST_SCORE

    has_secure_password validations: false
    encrypts :totp_secret
    attribute :recovery_digests, :json
    has_many :account_sessions, dependent: :delete_all
    has_many :one_time_links, dependent: :delete_all
    has_many :api_tokens, dependent: :delete_all
    has_many :passkeys, dependent: :delete_all

    before_validation { self.email = email.to_s.strip.downcase }

    validates :email, format: { with: EMAIL, message: "is not an e-mail address" }, length: { maximum: 255 },
                      uniqueness: { message: "has an account already" }
    validates :role, inclusion: { in: ROLES }
    validates :password, length: { minimum: MIN_PASSWORD }, allow_nil: true
    validate { errors.add(:password, "is longer than #{MAX_PASSWORD} bytes") if password.to_s.bytesize > MAX_PASSWORD }
    validate :password_is_unusual, if: -> { password && errors[:password].empty? }

    scope :usable, -> { where(disabled_at: nil) }

    # @param email [String]
    # @param password [String]
    # @return [Account, nil]
    def self.signing_in(email, password)
      account = usable.where.not(password_digest: nil).find_by(email: email.to_s.strip.downcase)
      # It takes as long for an unknown address as for a wrong password.
      return BCrypt::Password.create(password.to_s) && nil if account.nil?

      account.authenticate(password.to_s) || nil
    end

    # @param role [String] of {ROLES}
    # @return [Boolean] whether this one may do what that role may
    def at_least?(role) = ROLES.index(self.role) >= ROLES.index(role)

    # Changes what an account may do. Its tokens end, since they were issued to somebody who could do something else;
    # a deactivated account's sessions end too.
    #
    # @param role [String]
    # @param disabled [Boolean]
    # @return [void]
    # @raise [ActiveRecord::RecordInvalid]
    def change_rights(role:, disabled:)
      transaction do
        update!(role: role, disabled_at: disabled ? disabled_at || Time.now.utc : nil)
        end_tokens if saved_change_to_role? || disabled
        account_sessions.delete_all if disabled
      end
    end

    # Sets the password and ends all sessions and tokens.
    #
    # @param password [String]
    # @return [void]
    # @raise [ActiveRecord::RecordInvalid]
    def change_password(password)
      transaction do
        update!(password: password.to_s)
        account_sessions.delete_all
        one_time_links.delete_all
        end_tokens
      end
    end

    # Takes the second factor and all passkeys away, and ends all sessions, where devices are gone.
    #
    # @return [void]
    def forget_devices
      transaction do
        second_factor.remove
        passkeys.delete_all
        account_sessions.delete_all
      end
    end

    # @return [Access::SecondFactor]
    def second_factor = Access::SecondFactor.new(self)

    private

    def password_is_unusual
      known = ["estrel", *email.to_s.split(/[@.]/)]
      return if Zxcvbn.zxcvbn(password.scrub, known)["score"] >= LEAST_SCORE

      errors.add(:password, "is easy to guess; take a longer or less usual one")
    end

    def end_tokens = api_tokens.usable.update_all(revoked_at: Time.now.utc)
  end
end
