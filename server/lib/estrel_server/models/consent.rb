# frozen_string_literal: true

module EstrelServer
  # A profile gave or withdrew consent to be messaged over a channel, with the evidence; never changes.
  class Consent < Record
    CHANNELS = %w[email push sms].freeze

    belongs_to :receipt
    belongs_to :profile
  end
end
