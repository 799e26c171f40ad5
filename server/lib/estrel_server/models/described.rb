# frozen_string_literal: true

module EstrelServer
  # A property or an attribute: what it is called and its unit, and whether it is personal, as somebody has decided, or
  # else as its name or contents suggest.
  module Described
    extend ActiveSupport::Concern

    included do
      attribute :value_names, :json
      normalizes :display, :quantity, :unit, with: ->(text) { text.strip.presence }
      normalizes :value_names, with: ->(names) { names.to_h.transform_values(&:strip).compact_blank.presence }
      validates :description, length: { maximum: 1000 }
      validates :display, length: { maximum: 120 }
      validates :unit, length: { maximum: 24 }
      validates :quantity, inclusion: { in: Estrel::Names::QUANTITIES, allow_nil: true }
      validate { errors.add(:value_names, "may be at most 200") if value_names.to_h.size > 200 }
      scope :personal, -> { where("COALESCE(personal, personal_suggested)") }
    end

    # @return [Hash{Symbol => Object}] what somebody chose to show it by, as {Estrel::Catalogue::Field} takes it
    def shown = { display: display, quantity: quantity, unit: unit, values: value_names }

    # @return [Boolean]
    def personal? = personal.nil? ? personal_suggested : personal
  end
end
