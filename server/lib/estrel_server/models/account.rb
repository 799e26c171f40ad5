# frozen_string_literal: true

module EstrelServer
  # Somebody who uses Estrel. Until a password has been set by a one-time link, nobody can sign in as them.
  class Account < Record
    # From the least to the most that can be done.
    ROLES = Access::Roles::ALL
    EMAIL = /\A[^@\s]+@[^@\s]+\z/ # linear: neither part can take the @ between them
    MIN_PASSWORD = 12
    # bcrypt looks at no more bytes.
    MAX_PASSWORD = 72

    has_secure_password validations: false
    has_many :account_sessions, dependent: :delete_all
    has_many :one_time_links, dependent: :delete_all
    has_many :api_tokens, dependent: :delete_all

    before_validation { self.email = email.to_s.strip.downcase }

    validates :email, format: { with: EMAIL, message: "is not an e-mail address" }, length: { maximum: 255 },
                      uniqueness: { message: "has an account already" }
    validates :role, inclusion: { in: ROLES }
    validates :password, length: { minimum: MIN_PASSWORD }, allow_nil: true
    validate { errors.add(:password, "is longer than #{MAX_PASSWORD} bytes") if password.to_s.bytesize > MAX_PASSWORD }

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

    private

    def end_tokens = api_tokens.usable.update_all(revoked_at: Time.now.utc)
  end
end
