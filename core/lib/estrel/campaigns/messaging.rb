# frozen_string_literal: true

module Estrel
  module Campaigns
    # Which event types stand for messages, and which of their properties name the campaign and the channel. Frozen.
    class Messaging
      # What becomes of a message, in the order in which it does.
      KINDS = %w[received bounced opened clicked unsubscribed].freeze
      # What shows that somebody responded.
      RESPONSES = %w[opened clicked].freeze
      DEFAULTS = { **KINDS.to_h { |kind| [kind, "message_#{kind}"] }, "campaign" => "campaign",
                                                                      "channel" => "channel" }.freeze

      # @return [Hash{String => String}] as {DEFAULTS}
      attr_reader :to_h

      # @param names [Hash, nil] what differs from {DEFAULTS}
      # @raise [Error]
      def initialize(names = nil)
        unknown = (names || {}).keys - DEFAULTS.keys
        if unknown.any?
          raise Error, "there is no message event \"#{unknown.first}\"; there are #{DEFAULTS.keys.join(", ")}"
        end

        @to_h = DEFAULTS.merge(names || {}).freeze
        named = @to_h.values.all? { |name| name.is_a?(String) && !name.empty? }
        raise Error, "choose an event type for every kind of message event" unless named

        freeze
      end

      # @param kind [String] of {KINDS}
      # @return [String] the event type
      def event(kind) = to_h.fetch(kind)

      # @return [String] property that names the campaign
      def campaign = to_h.fetch("campaign")

      # @return [String] property that names the channel
      def channel = to_h.fetch("channel")
    end
  end
end
