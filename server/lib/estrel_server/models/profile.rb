# frozen_string_literal: true

module EstrelServer
  # One person as known here.
  class Profile < Record
    has_many :identifiers, dependent: :restrict_with_exception
    has_many :attribute_values, dependent: :restrict_with_exception
    has_many :events, dependent: :restrict_with_exception
  end
end
