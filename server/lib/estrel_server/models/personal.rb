# frozen_string_literal: true

module EstrelServer
  # A property or an attribute that may be personal: as somebody has decided, or else as its name or contents suggest.
  module Personal
    extend ActiveSupport::Concern

    included do
      validates :description, length: { maximum: 1000 }
      scope :personal, -> { where("COALESCE(personal, personal_suggested)") }
    end

    # @return [Boolean]
    def personal? = personal.nil? ? personal_suggested : personal
  end
end
