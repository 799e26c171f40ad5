# frozen_string_literal: true

module EstrelServer
  # How an event type was read until it was changed: whether as activity, and as which other type. Never changes.
  class CatalogueChange < Record
    belongs_to :event_type
  end
end
