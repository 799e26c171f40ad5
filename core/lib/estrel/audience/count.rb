# frozen_string_literal: true

module Estrel
  module Audience
    # How often something must have happened: from `minimum` to `maximum` times, `maximum` nil for no limit, counted by
    # events, by days, by calendar weeks or by visits. Frozen.
    class Count
      UNITS = %w[events days weeks visits].freeze

      # @return [Integer]
      attr_reader :minimum
      # @return [Integer, nil]
      attr_reader :maximum
      # @return [String] of {UNITS}
      attr_reader :unit

      # @param minimum [Integer]
      # @param maximum [Integer, nil]
      # @param unit [String]
      def initialize(minimum, maximum, unit = "events")
        @minimum = minimum
        @maximum = maximum
        # Once is once and never is never, in days as in events; but a system message makes no visit.
        @unit = once? && unit != "visits" ? "events" : unit
        freeze
      end

      # @param json [Hash, nil] one of at_least, at_most, exactly, between; and `of`, the unit; nil means at least once
      # @return [Count]
      def self.from_h(json)
        json ||= { "at_least" => 1 }
        unit = json.fetch("of", "events")
        kind, value = json.except("of").first
        case kind
        when "at_least" then new(value, nil, unit)
        when "at_most" then new(0, value, unit)
        when "exactly" then new(value, value, unit)
        when "between" then new(*value, unit)
        end
      end

      # @return [Boolean] whether somebody who never did it fits
      def zero_fits? = minimum.zero?

      # @return [Boolean] "did not"
      def none? = zero? && unit == "events"

      # @return [Boolean] whether nothing but "ever" or "never" is asked
      def once? = (minimum == 1 && maximum.nil?) || zero?

      # @param column [Polars::Expr] counts of at least one
      # @return [Polars::Expr]
      def expression(column)
        maximum.nil? ? column >= minimum : (column >= minimum) & (column <= maximum)
      end

      # @return [Hash] plain JSON
      def to_h = { **numbers, "of" => unit == "events" ? nil : unit }.compact

      private

      def zero? = maximum == 0 # rubocop:disable Style/NumericPredicate

      def numbers
        return { "at_least" => minimum } if maximum.nil?
        return { "exactly" => minimum } if minimum == maximum

        minimum.zero? ? { "at_most" => maximum } : { "between" => [minimum, maximum] }
      end
    end
  end
end
