# frozen_string_literal: true

module EstrelServer
  # One profile became part of another, because of a link. `before` tells who the two were; never changes.
  class Merge < Record
    attribute :before, :json
    belongs_to :link
    belongs_to :from_profile, class_name: "EstrelServer::Profile"
    belongs_to :into_profile, class_name: "EstrelServer::Profile"
  end
end
