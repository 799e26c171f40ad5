# frozen_string_literal: true

module EstrelServer
  # The name of an event, with the properties seen for it.
  class EventType < Record
    has_many :event_properties, dependent: :restrict_with_exception
    has_many :events, dependent: :restrict_with_exception
  end
end
