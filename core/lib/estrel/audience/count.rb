# frozen_string_literal: true

module Estrel
  module Audience
    # How often something must have happened: from `minimum` to `maximum` times, `maximum` nil for no limit. Frozen.
    class Count
      # @return [Integer]
      attr_reader :minimum
      # @return [Integer, nil]
      attr_reader :maximum

      # @param minimum [Integer]
      # @param maximum [Integer, nil]
      def initialize(minimum, maximum)
        @minimum = minimum
        @maximum = maximum
        freeze
      end

      # @param json [Hash, nil] one of at_least, at_most, exactly, between; nil means at least once
      # @return [Count]
      def self.from_h(json)
        kind, value = (json || { "at_least" => 1 }).first
        case kind
        when "at_least" then new(value, nil)
        when "at_most" then new(0, value)
        when "exactly" then new(value, value)
        when "between" then new(*value)
        end
      end

      # @return [Boolean] whether somebody who never did it fits
      def zero_fits? = minimum.zero?

      # @return [Boolean] "did not"
      def none? = maximum&.zero? || false

      # @param column [Polars::Expr] counts of at least one
      # @return [Polars::Expr]
      def expression(column)
        maximum.nil? ? column >= minimum : (column >= minimum) & (column <= maximum)
      end

      # @param number [Integer]
      # @return [Boolean]
      def fits?(number) = number >= minimum && (maximum.nil? || number <= maximum)

      # @return [Hash] plain JSON
      def to_h
        return { "at_least" => minimum } if maximum.nil?
        return { "exactly" => minimum } if minimum == maximum

        minimum.zero? ? { "at_most" => maximum } : { "between" => [minimum, maximum] }
      end
    end
  end
end
