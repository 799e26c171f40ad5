# frozen_string_literal: true

module EstrelServer
  # The rules a policy had from some time on; never changes.
  class LifecyclePolicyVersion < Record
    attribute :rules, :json
    belongs_to :lifecycle_policy, inverse_of: :versions
  end
end
