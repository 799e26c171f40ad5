# frozen_string_literal: true

module EstrelServer
  # One state of an audience's definition; never changes.
  class AudienceVersion < Record
    attribute :definition, :json
    belongs_to :audience

    validates :author, length: { maximum: 100 }
  end
end
