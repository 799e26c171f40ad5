# frozen_string_literal: true

module EstrelServer
  # An attribute as catalogued: name, type, and whether it arrived with more than one type.
  class AttributeDefinition < Record
    include Described

    has_many :attribute_values, dependent: :restrict_with_exception
  end
end
