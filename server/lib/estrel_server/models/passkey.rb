# frozen_string_literal: true

module EstrelServer
  # A key that a device of somebody's holds, or what keeps their passwords; here is the public half of it.
  class Passkey < InstallationRecord
    include Named

    belongs_to :account

    validates :external_id, uniqueness: { message: "is known already" }, length: { maximum: 700 }
  end
end
