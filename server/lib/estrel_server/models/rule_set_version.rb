# frozen_string_literal: true

module EstrelServer
  # The rules a rule set had from some time on; never changes.
  class RuleSetVersion < Record
    attribute :rules, :json
    belongs_to :rule_set, inverse_of: :versions
  end
end
