# frozen_string_literal: true

module Estrel
  module Handover
    # Who must not be messaged: what a plan says about it. Frozen.
    class Suppression
      # Addresses not to be contacted: identifier kind ("email", "phone", "customer") and the digests of their normal
      # forms, see {Address}.
      List = Struct.new(:kind, :digests, keyword_init: true)
      # Events that say that somebody was messaged, and for how many days that keeps a person back.
      Messaged = Struct.new(:events, :days, keyword_init: true)

      # @return [String, nil] one of {Reach::CHANNELS}; nil where no message is meant
      attr_reader :channel
      # @return [Messaged, nil]
      attr_reader :messaged
      # @return [Array<List>]
      attr_reader :lists
      # @return [Array<Integer>] profile ids that were messaged too recently by what Estrel knows itself
      attr_reader :handed_over

      # @param channel [String, nil]
      # @param messaged [Messaged, nil]
      # @param lists [Array<List>]
      # @param handed_over [Array<Integer>]
      # @raise [Invalid]
      def initialize(channel: nil, messaged: nil, lists: [], handed_over: [])
        unless channel.nil? || Reach::CHANNELS.include?(channel)
          raise Invalid, "channel is one of #{Reach::CHANNELS.join(", ")}, or left out"
        end
        if messaged && !(messaged.days.is_a?(Integer) && messaged.days.between?(1, Lifecycle::Policy::MAX_DAYS))
          raise Invalid, "messaged within is a whole number of days from 1 to #{Lifecycle::Policy::MAX_DAYS}"
        end

        @channel = channel
        @messaged = messaged
        @lists = lists.freeze
        @handed_over = handed_over.freeze
        freeze
      end
    end
  end
end
