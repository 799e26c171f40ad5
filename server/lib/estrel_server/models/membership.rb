# frozen_string_literal: true

module EstrelServer
  # What an account may do in a workspace beside the first one, where its own role counts.
  class Membership < InstallationRecord
    belongs_to :account
    belongs_to :installed_workspace

    validates :role, inclusion: { in: Access::Roles::ALL }
  end
end
