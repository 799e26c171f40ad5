# frozen_string_literal: true

module Estrel
  module Statistics
    # The standard normal distribution.
    module Normal
      # The 0.975 quantile, for two-sided 95% intervals.
      Z = 1.959963984540054
      # The 0.8 quantile, for a power of 80%.
      POWER = 0.8416212335729143

      module_function

      # @param deviation [Float] of a standard normal distribution
      # @return [Float] probability of one at least as far from 0
      def two_sided(deviation) = Math.erfc(deviation.abs / Math.sqrt(2))
    end
  end
end
