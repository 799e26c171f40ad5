# frozen_string_literal: true

module Estrel
  module Statistics
    # Student's t distribution.
    module Student
      # Terms of the continued fraction; it converges within about the square root of the larger degrees of freedom.
      TERMS = 2000
      private_constant :TERMS

      module_function

      # @param value [Float] of a t distribution
      # @param degrees [Float] of freedom
      # @return [Float] probability of one at least as far from 0: the regularised incomplete beta function
      #   I(x; n/2, 1/2) at x = n / (n + t²) (Abramowitz and Stegun, Handbook of Mathematical Functions,
      #   26.7.1 with 26.5.27)
      def two_sided(value, degrees) = beta(degrees / (degrees + (value * value)), degrees / 2.0, 0.5)

      # The 0.975 quantile of a t distribution; those of few whole degrees, of which many intervals are made, are
      # remembered.
      #
      # @param degrees [Float] of freedom
      # @return [Float]
      def quantile(degrees)
        return found_quantile(degrees) unless degrees < 1_000 && degrees == degrees.floor

        (@quantiles ||= {})[degrees] ||= found_quantile(degrees)
      end

      # By Newton's method from the quantile of the normal distribution. The probability falls ever less steeply from
      # there, so every step comes nearer from the same side.
      def found_quantile(degrees)
        value = Normal::Z
        100.times do
          step = (two_sided(value, degrees) - 0.05) / (2 * density(value, degrees))
          value += step
          break if step.abs < 1e-12 * value
        end
        value
      end

      private_class_method :found_quantile

      def density(value, degrees)
        scale = Math.lgamma((degrees + 1) / 2)[0] - Math.lgamma(degrees / 2)[0] - (Math.log(degrees * Math::PI) / 2)
        Math.exp(scale - ((degrees + 1) / 2 * Math.log(1 + (value * value / degrees))))
      end
      private_class_method :density

      # The regularised incomplete beta function by its continued fraction (Abramowitz and Stegun, 26.5.8), evaluated
      # from the far end.
      def beta(at, first, second)
        return at if at.zero? || at == 1
        return 1 - beta(1 - at, second, first) if at > (first + 1) / (first + second + 2)

        front = Math.exp(Math.lgamma(first + second)[0] - Math.lgamma(first)[0] - Math.lgamma(second)[0] +
                         (first * Math.log(at)) + (second * Math.log(1 - at)))
        rest = TERMS.downto(1).reduce(1.0) { |tail, term| 1 + (coefficient(term, at, first, second) / tail) }
        front / (first * rest)
      end
      private_class_method :beta

      def coefficient(term, at, first, second)
        half = term / 2
        if term.even?
          half * (second - half) * at / ((first + term - 1) * (first + term))
        else
          -(first + half) * (first + second + half) * at / ((first + term - 1) * (first + term))
        end
      end
      private_class_method :coefficient
    end
  end
end
