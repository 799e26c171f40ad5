# frozen_string_literal: true

module EstrelServer
  # A condition somebody wants to be told of; see {Workers::Watching}.
  class Watch < Record
    attribute :settings, :json
    belongs_to :lifecycle_policy, optional: true
    has_many :notices, dependent: :delete_all
  end
end
