# frozen_string_literal: true

module EstrelServer
  # A property of an event type as catalogued: name, type, and whether it arrived with more than one type.
  class EventProperty < Record
    include Described

    belongs_to :event_type
  end
end
