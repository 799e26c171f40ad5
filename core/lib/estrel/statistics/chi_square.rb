# frozen_string_literal: true

module Estrel
  module Statistics
    # The χ² distribution, and whether differences differ.
    module ChiSquare
      TERMS = 500
      private_constant :TERMS

      module_function

      # @param value [Float] 0 or more
      # @param degrees [Integer] of freedom
      # @return [Float] probability of one at least as large: the regularised upper incomplete gamma function, by its
      #   series or, where that converges slowly, its continued fraction (Abramowitz and Stegun, Handbook of
      #   Mathematical Functions, 26.4.19 with 6.5.29 and 6.5.31)
      def upper(value, degrees)
        return 1.0 if value <= 0

        half = degrees / 2.0
        at = value / 2.0
        front = Math.exp((half * Math.log(at)) - at - Math.lgamma(half)[0])
        at < half + 1 ? 1 - (front * series(half, at)) : front / fraction(half, at)
      end

      # Whether several estimates are of different things: Cochran's Q (W. G. Cochran, Biometrics 10 (1954), 101–129).
      #
      # @param estimates [Array<Array(Float, Float)>] each with its variance
      # @return [Float, nil] p-value; nil where fewer than two have a variance
      def heterogeneity(estimates)
        told = estimates.select { |_, variance| variance&.positive? }
        return if told.size < 2

        weights = told.map { |_, variance| 1 / variance }
        mean = told.zip(weights).sum { |(estimate, _), weight| estimate * weight } / weights.sum
        upper(told.zip(weights).sum { |(estimate, _), weight| weight * ((estimate - mean)**2) }, told.size - 1)
      end

      # How far the ranks of several values within each block depart from what chance would make of them (M. Friedman,
      # Journal of the American Statistical Association 32 (1937), 675–701), corrected for ties.
      #
      # @param blocks [Array<Array<Numeric>>] of each block the values, in the same order
      # @return [Float] of a χ² distribution with one degree less than there are values; 0 where all are alike
      def friedman(blocks)
        width = blocks.first.size
        ranks = blocks.map { |values| values.map { |value| mean_rank(values, value) } }
        apart = ranks.transpose.sum { |own| (own.sum - (blocks.size * (width + 1) / 2.0))**2 }
        spread = ranks.flatten.sum { |rank| (rank - ((width + 1) / 2.0))**2 }
        spread.zero? ? 0.0 : (width - 1) * apart / spread
      end

      def mean_rank(values, value)
        values.count { |other| other < value } + ((values.count(value) + 1) / 2.0)
      end
      private_class_method :mean_rank

      def series(half, at)
        term = sum = 1 / half
        TERMS.times do |step|
          term *= at / (half + step + 1)
          sum += term
          break if term < sum * 1e-16
        end
        sum
      end
      private_class_method :series

      # From its far end.
      def fraction(half, at)
        TERMS.downto(1).reduce(at) { |tail, step| at + ((step - half) / (1 + (step / tail))) }
      end
      private_class_method :fraction
    end
  end
end
