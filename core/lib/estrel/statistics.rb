# frozen_string_literal: true

module Estrel
  # Estimates for shares of people, and for means of something each of them has.
  module Statistics
    # The 0.975 quantile of the standard normal distribution, for two-sided 95% intervals.
    Z = 1.959963984540054
    # The 0.8 quantile, for a power of 80%.
    POWER = 0.8416212335729143
    # Terms of the continued fraction; it converges within about the square root of the larger degrees of freedom.
    TERMS = 2000
    private_constant :TERMS

    module_function

    # The difference of two independent shares with its 95% interval: Newcombe's hybrid score interval, method 10 of
    # R. G. Newcombe, Statistics in Medicine 17 (1998), 873–890.
    #
    # @param hits [Integer] of the first
    # @param total [Integer] of the first, positive
    # @param other_hits [Integer] of the second
    # @param other_total [Integer] of the second, positive
    # @return [Hash{Symbol => Float}] `estimate`, `low`, `high`: first share minus second
    def difference(hits, total, other_hits, other_total)
      share = hits.fdiv(total)
      other = other_hits.fdiv(other_total)
      low, high = wilson(hits, total)
      other_low, other_high = wilson(other_hits, other_total)
      estimate = share - other
      { estimate: estimate, low: estimate - Math.hypot(share - low, other_high - other),
        high: estimate + Math.hypot(high - share, other - other_low) }
    end

    # A share's 95% score interval (E. B. Wilson, Journal of the American Statistical Association 22 (1927), 209–212).
    #
    # @param hits [Integer]
    # @param total [Integer] positive
    # @return [Array(Float, Float)]
    def wilson(hits, total)
      share = hits.fdiv(total)
      square = Z * Z / total
      centre = share + (square / 2)
      half = Z * Math.sqrt(((share * (1 - share)) / total) + (square / (4 * total)))
      [(centre - half) / (1 + square), (centre + half) / (1 + square)]
    end

    # How likely two shares are to differ at least so much by chance alone: two-sided z test with the pooled share
    # (Fleiss, Levin and Paik, Statistical Methods for Rates and Proportions, 3rd edition 2003, section 3.2, without
    # correction for continuity).
    #
    # @param hits [Integer] of the first
    # @param total [Integer] of the first, positive
    # @param other_hits [Integer] of the second
    # @param other_total [Integer] of the second, positive
    # @return [Float] p-value; 1 where everybody or nobody is a hit
    def p_value(hits, total, other_hits, other_total)
      pooled = (hits + other_hits).fdiv(total + other_total)
      variance = pooled * (1 - pooled) * ((1.0 / total) + (1.0 / other_total))
      return 1.0 if variance.zero?

      two_sided((hits.fdiv(total) - other_hits.fdiv(other_total)) / Math.sqrt(variance))
    end

    # The ratio of two shares with its 95% interval on the logarithmic scale (Katz, Baptista, Azen and Pike, Biometrics
    # 34 (1978), 469–474).
    #
    # @return [Hash{Symbol => Float}, nil] `estimate`, `low`, `high`: first share over second; nil where one has no hit
    def ratio(hits, total, other_hits, other_total)
      return if hits.zero? || other_hits.zero?

      estimate = hits.fdiv(total) / other_hits.fdiv(other_total)
      half = Z * Math.sqrt((1.0 / hits) - (1.0 / total) + (1.0 / other_hits) - (1.0 / other_total))
      { estimate: estimate, low: estimate * Math.exp(-half), high: estimate * Math.exp(half) }
    end

    # The difference of two means whose variances may differ, with its 95% interval and two-sided p-value (B. L. Welch,
    # Biometrika 34 (1947), 28–35).
    #
    # @param one [Hash{Symbol => Numeric}] `people` (2 or more), `mean`, `variance` (of the sample) of the first
    # @param other [Hash{Symbol => Numeric}] likewise of the second
    # @return [Hash{Symbol => Float}] `estimate`, `low`, `high` (first minus second), `p_value`
    def welch(one, other)
      parts = [one, other].map { |group| group[:variance].fdiv(group[:people]) }
      estimate = (one[:mean] - other[:mean]).to_f
      error = Math.sqrt(parts.sum)
      return { estimate: estimate, low: estimate, high: estimate, p_value: estimate.zero? ? 1.0 : 0.0 } if error.zero?

      degrees = (parts.sum**2) / [one, other].zip(parts).sum { |group, part| (part**2) / (group[:people] - 1) }
      half = t_quantile(degrees) * error
      { estimate: estimate, low: estimate - half, high: estimate + half,
        p_value: t_two_sided(estimate / error, degrees) }
    end

    # The mean of differences, one per person or pair, with its 95% interval and two-sided p-value: the paired t test
    # (Student, Biometrika 6 (1908), 1–25).
    #
    # @param differences [Polars::Series] of floats
    # @return [Hash{Symbol => Float}, nil] `estimate`, `low`, `high`, `p_value`; nil for fewer than two
    def paired(differences)
      count = differences.len
      return if count < 2

      estimate = differences.mean
      error = Math.sqrt(differences.var / count)
      return { estimate: estimate, low: estimate, high: estimate, p_value: estimate.zero? ? 1.0 : 0.0 } if error.zero?

      half = t_quantile(count - 1.0) * error
      { estimate: estimate, low: estimate - half, high: estimate + half,
        p_value: t_two_sided(estimate / error, count - 1.0) }
    end

    # The 95% intervals of the means of values that each of the same number of people has (Student, Biometrika 6
    # (1908), 1–25).
    #
    # @param people [Integer]
    # @param sums [Array<Array(Numeric, Numeric)>] of each value, the sum over the people and the sum of its squares
    # @return [Array<Array(Float, Float)>] low and high of each; of nil for fewer than two people
    def mean_intervals(people, sums)
      return sums.map { [nil, nil] } if people < 2

      quantile = t_quantile(people - 1.0)
      sums.map do |sum, squares|
        mean = sum.fdiv(people)
        half = quantile * Math.sqrt([squares - (sum * mean), 0.0].max / (people - 1.0) / people)
        [mean - half, mean + half]
      end
    end

    # How many people it takes to tell two shares apart with a power of 80% at a two-sided level of 5% (Fleiss, Levin
    # and Paik 2003, section 4.3, for groups of unequal size).
    #
    # @param share [Float] of the second group
    # @param other [Float] of the first group, different
    # @param times [Float] how many times as large the first group is as the second
    # @return [Integer] people in both groups together
    def people_needed(share, other, times)
      mean = (share + (times * other)) / (1 + times)
      alike = Z * Math.sqrt((1 + (1 / times)) * mean * (1 - mean))
      apart = POWER * Math.sqrt((share * (1 - share)) + (other * (1 - other) / times))
      ((((alike + apart)**2) / ((share - other)**2)).ceil * (1 + times)).ceil
    end

    # How many people it takes to tell two means apart with a power of 80% at a two-sided level of 5% (Chow, Shao,
    # Wang and Lokhnygina 2018, section 3.2, for variances of each group's own).
    #
    # @param variance [Float] of the second group
    # @param other [Float] variance of the first group
    # @param difference [Float] of the means, not 0
    # @param times [Float] how many times as large the first group is as the second
    # @return [Integer] people in both groups together
    def people_needed_for_means(variance, other, difference, times)
      (((((Z + POWER)**2) * (variance + (other / times))) / (difference**2)).ceil * (1 + times)).ceil
    end

    # @param deviation [Float] of a standard normal distribution
    # @return [Float] probability of one at least as far from 0
    def two_sided(deviation) = Math.erfc(deviation.abs / Math.sqrt(2))

    # @param value [Float] of a t distribution
    # @param degrees [Float] of freedom
    # @return [Float] probability of one at least as far from 0: the regularised incomplete beta function I(x; n/2, 1/2)
    #   at x = n / (n + t²) (Abramowitz and Stegun, Handbook of Mathematical Functions, 26.7.1 with 26.5.27)
    def t_two_sided(value, degrees) = beta(degrees / (degrees + (value * value)), degrees / 2.0, 0.5)

    # The 0.975 quantile of a t distribution, by Newton's method from that of the normal distribution. The probability
    # falls ever less steeply from there, so every step comes nearer from the same side.
    #
    # @param degrees [Float] of freedom
    # @return [Float]
    def t_quantile(degrees)
      value = Z
      100.times do
        step = (t_two_sided(value, degrees) - 0.05) / (2 * t_density(value, degrees))
        value += step
        break if step.abs < 1e-12 * value
      end
      value
    end

    def t_density(value, degrees)
      scale = Math.lgamma((degrees + 1) / 2)[0] - Math.lgamma(degrees / 2)[0] - (Math.log(degrees * Math::PI) / 2)
      Math.exp(scale - ((degrees + 1) / 2 * Math.log(1 + (value * value / degrees))))
    end
    private_class_method :t_density

    # The regularised incomplete beta function by its continued fraction (Abramowitz and Stegun, 26.5.8), evaluated from
    # the far end.
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
