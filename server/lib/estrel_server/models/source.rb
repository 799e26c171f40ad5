# frozen_string_literal: true

module EstrelServer
  # Where events come from; an event's own id is unique within its source.
  class Source < Record
    has_many :events, dependent: :restrict_with_exception
  end
end
