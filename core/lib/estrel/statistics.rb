# frozen_string_literal: true

module Estrel
  # Estimates for shares of people.
  module Statistics
    # The 0.975 quantile of the standard normal distribution, for two-sided 95 % intervals.
    Z = 1.959963984540054

    module_function

    # The difference of two independent shares with its 95 % interval: Newcombe's hybrid score interval, method 10 of
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

    # A share's 95 % score interval (E. B. Wilson, Journal of the American Statistical Association 22 (1927), 209–212).
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
  end
end
