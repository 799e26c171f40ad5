# frozen_string_literal: true

module Estrel
  module Exports
    # Who must not be messaged: what an export says about it. Frozen.
    class Suppression
      # Addresses not to be contacted: identifier kind ("email", "phone", "customer") and the digests of their normal
      # forms, see {Address}.
      List = Struct.new(:kind, :digests, keyword_init: true)
      # Events that say that somebody was messaged, and for how many days that excludes a person.
      Messaged = Struct.new(:events, :days, keyword_init: true)

      # @return [String, nil] one of {Reach::CHANNELS}; nil where no message is meant
      attr_reader :channel
      # @return [Messaged, nil]
      attr_reader :messaged
      # @return [Array<List>]
      attr_reader :lists
      # @return [Array<Integer>] profile ids that were messaged too recently by what Estrel knows itself
      attr_reader :exported

      # @param channel [String, nil]
      # @param messaged [Messaged, nil]
      # @param lists [Array<List>]
      # @param exported [Array<Integer>]
      # @raise [Invalid]
      def initialize(channel: nil, messaged: nil, lists: [], exported: [])
        unless channel.nil? || Reach::CHANNELS.include?(channel)
          raise Invalid, "the channel must be one of #{Reach::CHANNELS.join(", ")}"
        end
        if messaged && !(messaged.days.is_a?(Integer) && messaged.days.between?(1, Lifecycle::RuleSet::MAX_DAYS))
          raise Invalid, "\"messaged too recently\" needs a whole number of days from 1 to #{Lifecycle::RuleSet::MAX_DAYS}"
        end

        @channel = channel
        @messaged = messaged
        @lists = lists.freeze
        @exported = exported.freeze
        freeze
      end
    end
  end
end
