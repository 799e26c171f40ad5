# frozen_string_literal: true

module EstrelServer
  # A visitor identifier went from one customer to another, because of a link: a shared device.
  class IdentifierMove < Record
    belongs_to :identifier
    belongs_to :link
    belongs_to :from_profile, class_name: "EstrelServer::Profile"
    belongs_to :to_profile, class_name: "EstrelServer::Profile"
  end
end
