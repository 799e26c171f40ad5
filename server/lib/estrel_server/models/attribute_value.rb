# frozen_string_literal: true

module EstrelServer
  # One value an attribute of a profile took on, with its time; none is ever overwritten.
  class AttributeValue < Record
    self.primary_key = %i[profile_id attribute_definition_id occurred_at]
    attribute :value, :json
    belongs_to :profile
    belongs_to :attribute_definition
  end
end
