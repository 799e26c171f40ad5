# frozen_string_literal: true

module EstrelServer
  # Something a profile did at an instant; never changes.
  class Event < Record
    attribute :properties, :json
    belongs_to :profile
    belongs_to :event_type
    belongs_to :source
  end
end
