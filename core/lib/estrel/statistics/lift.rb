# frozen_string_literal: true

module Estrel
  module Statistics
    # How many times as many are in several sets at once as there would be if being in one said nothing about the
    # others.
    module Lift
      # Fewer people than this carry no interval.
      ENOUGH = 50

      module_function

      # With its 95% interval on the logarithmic scale, by the delta method over the multinomial counts (Y. M. M.
      # Bishop, S. E. Fienberg and P. W. Holland, Discrete Multivariate Analysis, 1975, chapter 14). Where nobody is in
      # all of them, the upper end is that of a Poisson mean of which none was seen, 3.69 people.
      #
      # @param both [Integer] people in all of the sets
      # @param sizes [Array<Integer>] people in each
      # @param pairs [Array<Integer>] people in each two of them
      # @param everybody [Integer]
      # @return [Hash{Symbol => Float}, nil] `estimate`, `low`, `high` (nil for both with too few people), `p_value` of
      #   its being 1; nil where one of the sets is empty
      def of(both, sizes, pairs, everybody)
        shares = sizes.map { |size| size.fdiv([everybody, 1].max) }
        expected = shares.reduce(everybody.to_f, :*)
        return if expected.zero?
        return { estimate: both / expected, low: nil, high: nil, p_value: 1.0 } if everybody < ENOUGH
        return none(expected) if both.zero?

        told(both / expected, spread(both, shares, pairs, everybody))
      end

      def none(expected)
        { estimate: 0.0, low: 0.0, high: -Math.log(0.025) / expected, p_value: [2 * Math.exp(-expected), 1.0].min }
      end

      def told(estimate, error)
        half = Normal::Z * error
        p_value = error.zero? ? 1.0 : Normal.two_sided(Math.log(estimate) / error)
        { estimate: estimate, low: estimate * Math.exp(-half), high: estimate * Math.exp(half), p_value: p_value }
      end

      # The standard error of its logarithm.
      def spread(both, shares, pairs, everybody)
        twos = shares.combination(2).zip(pairs).sum { |(one, other), count| count / (everybody * one * other) }
        variance = everybody.fdiv(both) - shares.sum { |share| 1 / share } + (2 * twos) - ((shares.size - 1)**2)
        Math.sqrt([variance, 0.0].max / everybody)
      end
      private_class_method :none, :told, :spread
    end
  end
end
