# frozen_string_literal: true

module EstrelServer
  # A condition somebody wants to be alerted to; see {Workers::Alerting}.
  class AlertRule < Record
    attribute :settings, :json
    belongs_to :rule_set, optional: true
    has_many :alerts, dependent: :delete_all
  end
end
