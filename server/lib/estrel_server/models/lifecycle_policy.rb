# frozen_string_literal: true

module EstrelServer
  # The lifecycle policy in force, kept; the rules are {Estrel::Lifecycle::Policy}.
  class LifecyclePolicy < Record
    DEFAULT_NAME = "Default"
    DEFAULT_DAYS = { new_for: 30, active_within: 30, churned_after: 90 }.freeze

    attribute :activity, :json

    # The stored policy, or, before anybody has chosen one, a first one in which every event type counts but those that
    # are marked as no activity.
    #
    # @return [LifecyclePolicy]
    def self.current
      find_by(name: DEFAULT_NAME) || begin
        types = EventType.where(not_activity: false, merged_into_id: nil)
        new(name: DEFAULT_NAME, activity: types.order(:name).pluck(:name), **DEFAULT_DAYS)
      end
    end

    # @return [Estrel::Lifecycle::Policy, nil] nil while there is no event type that could count
    def rules
      return if activity.empty?

      Estrel::Lifecycle::Policy.new(activity: activity, new_for: new_for, active_within: active_within,
                                    churned_after: churned_after)
    end
  end
end
