# frozen_string_literal: true

module EstrelServer
  # Where events come from; an event's own id is unique within its source.
  class Source < Record
    NAME = %r{\A[A-Za-z0-9][A-Za-z0-9 ._:/-]{0,99}\z}

    attribute :allowed_types, :json
    has_many :events, dependent: :restrict_with_exception
    has_many :sending_keys, -> { order(:id) }, dependent: :restrict_with_exception, inverse_of: :source

    validates :name, uniqueness: { message: "is taken" },
                     format: { with: NAME, message: "must be letters, digits, spaces and . _ : / -, at most 100" },
                     on: :by_hand
    validates :description, length: { maximum: 1000 }
    validates :events_per_minute, numericality: { only_integer: true, in: 1..10_000_000, allow_nil: true }

    # Issues a new key; those in use go on working for the overlap and then end.
    #
    # @param overlap_hours [Integer]
    # @return [Array(SendingKey, String)] see {SendingKey.issue}
    def rotate_key(overlap_hours)
      transaction do
        ending = Time.now.utc + (overlap_hours * 3600)
        sending_keys.usable.where("expires_at IS NULL OR expires_at > ?", ending).find_each do |key|
          key.update!(expires_at: ending)
        end
        SendingKey.issue(self)
      end
    end
  end
end
