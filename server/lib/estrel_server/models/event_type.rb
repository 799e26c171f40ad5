# frozen_string_literal: true

module EstrelServer
  # The name of an event, the properties seen for it, and what an analyst says about it.
  #
  # A misspelt type can be read as another one: `merged_into`. Its events stay as they are stored.
  class EventType < Record
    has_many :event_properties, dependent: :restrict_with_exception
    has_many :events, dependent: :restrict_with_exception
    belongs_to :merged_into, class_name: "EstrelServer::EventType", optional: true
    has_many :merged, class_name: "EstrelServer::EventType", foreign_key: :merged_into_id,
                      dependent: :restrict_with_exception, inverse_of: :merged_into

    normalizes :noun, :phrase, with: ->(text) { text.strip.presence }
    validates :noun, length: { maximum: 120 }
    validates :phrase, length: { maximum: 160 }
    validates :description, length: { maximum: 1000 }
    validates :folder, length: { maximum: 255 }
    validate :merge_makes_sense

    # @return [Hash{String => String}] name of every merged type to the one it is read as
    def self.aliases
      where.not(merged_into_id: nil).includes(:merged_into).to_h { |type| [type.name, type.merged_into.name] }
    end

    private

    def merge_makes_sense
      return unless merged_into

      errors.add(:merged_into, "cannot be merged into itself") if merged_into_id == id
      errors.add(:merged_into, "is already merged into #{merged_into.merged_into.name}") if merged_into.merged_into_id
      errors.add(:base, "Other event types are merged into #{name}; undo those first") if id && merged.exists?
    end
  end
end
