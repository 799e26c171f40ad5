# frozen_string_literal: true

module EstrelServer
  # Somebody said that two identifiers are the same person, and what followed; never changes.
  class Link < Record
    belongs_to :receipt
    belongs_to :profile, optional: true
  end
end
