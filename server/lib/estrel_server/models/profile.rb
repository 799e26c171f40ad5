# frozen_string_literal: true

module EstrelServer
  # One person as known here. A profile that became part of another one stays behind empty and says which.
  class Profile < Record
    has_many :identifiers, dependent: :restrict_with_exception
    has_many :attribute_values, dependent: :restrict_with_exception
    has_many :events, dependent: :restrict_with_exception
    has_many :consents, dependent: :restrict_with_exception
    belongs_to :merged_into, class_name: "EstrelServer::Profile", optional: true
  end
end
