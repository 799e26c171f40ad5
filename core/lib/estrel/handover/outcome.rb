# frozen_string_literal: true

module Estrel
  module Handover
    # What handing over is measured by: whether somebody did something, how much of something there is per person, or
    # whether somebody who had gone quiet is new or active again. Frozen.
    class Outcome
      KINDS = %w[did sum back].freeze
      MAX_DAYS = 365

      # @return [String] of {KINDS}
      attr_reader :kind
      # @return [String, nil] name of an event type, for "did" and "sum"
      attr_reader :event
      # @return [String, nil] name of a number, for "sum"
      attr_reader :property
      # @return [Integer] days after the day of the run
      attr_reader :days

      # @param kind [String]
      # @param days [Integer]
      # @param event [String, nil]
      # @param property [String, nil]
      # @param catalogue [Catalogue]
      # @raise [Invalid]
      def initialize(kind, days:, catalogue:, event: nil, property: nil)
        raise Invalid, "what is measured is one of #{KINDS.join(", ")}" unless KINDS.include?(kind)
        unless days.is_a?(Integer) && days.between?(1, MAX_DAYS)
          raise Invalid, "days is a whole number from 1 to #{MAX_DAYS}"
        end

        @kind = kind
        @event = event
        @property = property
        @days = days
        check_event(catalogue) unless kind == "back"
        freeze
      end

      # @return [Boolean] whether it is a share of people, not a mean
      def share? = kind != "sum"

      # @return [String] "did ride_ended"
      def to_s
        case kind
        when "did" then "did #{event}"
        when "sum" then "sum of #{property} of #{event} per person"
        else "came back to being new or active"
        end
      end

      private

      def check_event(catalogue)
        type = catalogue.event_types[event] or
          raise Invalid, "no event type \"#{event}\"#{Catalogue.suggestion(event.to_s, catalogue.event_types.keys)}"
        return if kind == "did" || type.properties[property]&.type == "number"

        raise Invalid, "#{event} has no property \"#{property}\" that is a number"
      end
    end
  end
end
