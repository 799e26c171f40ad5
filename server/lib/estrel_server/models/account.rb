# frozen_string_literal: true

require "zxcvbn"

module EstrelServer
  # A user of Estrel. Nobody can sign in to an account before its password has been set by a one-time link.
  #
  # An account that the administrator of another workspace than the first one creates is unconfirmed: that administrator
  # held the link by which the password was set, so the address may belong to someone else. Whatever ways to sign in it
  # has end as soon as it gets a first role in a further workspace, or a provider vouches for the address.
  class Account < InstallationRecord
    # From the least to the most that can be done.
    ROLES = Access::Roles::ALL
    # Of somebody who has nothing to do with the first workspace.
    NO_ROLE = "none"
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
    has_many :memberships, dependent: :delete_all

    before_validation { self.email = email.to_s.strip.downcase }

    validates :email, format: { with: EMAIL, message: "is not an email address" }, length: { maximum: 255 },
                      uniqueness: { message: "has an account already" }
    validates :role, inclusion: { in: [NO_ROLE, *ROLES] }
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

    # Those who have something to do in the workspace that this thread works in, with what they may do in it.
    #
    # @return [Hash{Account => String}]
    def self.roles_here
      place = Workspaces.current
      return where.not(role: NO_ROLE).to_h { |account| [account, account.role] } if place.first?

      Membership.joins(:installed_workspace).where(installed_workspaces: { name: place.name }).includes(:account)
                .to_h { |membership| [membership.account, membership.role] }
    end

    # @return [Array<Account>] who can sign in and administers the workspace that this thread works in
    def self.administrators_here
      roles_here.select { |account, role| role == "administrator" && account.disabled_at.nil? }.keys
    end

    # @param email [String]
    # @return [Account] the one there is, or a new one
    def self.named(email) = find_or_initialize_by(email: email.to_s.strip.downcase)

    # Locks the rows by which {administrators_here} are counted, until the transaction ends, so that simultaneous
    # changes of roles are counted one after the other.
    #
    # @return [void]
    def self.lock_roles_here
      place = Workspaces.current
      # In one statement: an earlier plain read would fix the snapshot by which the rows are counted afterwards.
      others = Membership.joins(:installed_workspace).where(installed_workspaces: { name: place.name })
      (place.first? ? self : others).where(role: "administrator").order(:id).lock.ids
    end

    # @return [String, nil] what this one may do in the workspace that this thread works in; nil for nothing
    def role_here = roles[Workspaces.current.name]

    # @return [Hash{String => String}] roles by the names of the workspaces that are open
    def roles
      @roles ||= begin
        others = memberships.joins(:installed_workspace).merge(InstalledWorkspace.open)
                            .order("installed_workspaces.name").pluck("installed_workspaces.name", "memberships.role")
        [[Workspaces::FIRST, role], *others].to_h.reject { |_, role| role == NO_ROLE }
      end
    end

    # @param role [String] of {ROLES}
    # @return [Boolean] whether this one may do here what that role may
    def at_least?(role) = !role_here.nil? && ROLES.index(role_here) >= ROLES.index(role)

    # @return [Boolean] whether this one administers any workspace
    def administers? = roles.value?("administrator")

    # Changes what an account may do in the workspace that this thread works in. Its tokens for it end, since they were
    # issued to somebody who could do something else.
    #
    # @param role [String] of {ROLES}, or {NO_ROLE}
    # @return [void]
    # @raise [ActiveRecord::RecordInvalid]
    def change_role(role)
      return if role == (role_here || NO_ROLE)

      place = Workspaces.current
      transaction do
        end_credentials if !confirmed && role_here.nil?
        place.first? ? update!(role: role) : join(InstalledWorkspace.find_by!(name: place.name), role)
        @roles = nil
        end_tokens(place.name)
      end
    end

    # A provider, or an administrator of the first workspace, vouches for the address from now on.
    #
    # @return [void]
    def confirm
      return if confirmed

      transaction do
        end_credentials
        update!(confirmed: true)
      end
    end

    # @param workspace [String] a workspace's name
    # @return [Boolean] whether this account is of that workspace alone, which may therefore issue its first password
    def of_workspace_alone?(workspace)
      others = memberships.joins(:installed_workspace).where.not(installed_workspaces: { name: workspace })
      !confirmed && role == NO_ROLE && others.none?
    end

    # Lets an account do nothing any more, anywhere: its tokens and sessions end.
    #
    # @return [void]
    def disable
      transaction do
        update!(disabled_at: disabled_at || Time.now.utc)
        end_tokens
        account_sessions.delete_all
      end
    end

    # Sets the password and ends all sessions and tokens.
    #
    # @param password [String]
    # @param remove_passkeys [Boolean]
    # @return [void]
    # @raise [ActiveRecord::RecordInvalid]
    def change_password(password, remove_passkeys: false)
      transaction do
        update!(password: password.to_s)
        account_sessions.delete_all
        one_time_links.delete_all
        passkeys.delete_all if remove_passkeys
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

    def end_credentials
      update!(password_digest: nil)
      forget_devices
      one_time_links.delete_all
      end_tokens
    end

    def password_is_unusual
      known = ["estrel", *email.to_s.split(/[@.]/)]
      return if Zxcvbn.zxcvbn(password.scrub, known)["score"] >= LEAST_SCORE

      errors.add(:password, "is too easy to guess; choose a longer or less common one")
    end

    def join(workspace, role)
      membership = memberships.find_or_initialize_by(installed_workspace: workspace)
      return membership.destroy! if role == NO_ROLE

      membership.update!(role: role)
    end

    def end_tokens(workspace = nil)
      ended = workspace ? api_tokens.where(workspace: workspace) : api_tokens
      ended.usable.update_all(revoked_at: Time.now.utc)
    end
  end
end
