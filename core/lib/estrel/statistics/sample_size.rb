# frozen_string_literal: true

module Estrel
  module Statistics
    # How many people it takes to tell two groups apart with a power of 80% at a two-sided level of 5%.
    module SampleSize
      module_function

      # For shares: Fleiss, Levin and Paik 2003, section 4.3, with groups of unequal size.
      #
      # @param share [Float] of the second group
      # @param other [Float] of the first group, different
      # @param times [Float] how many times as large the first group is as the second
      # @return [Integer] people in both groups together
      def of_shares(share, other, times)
        mean = (share + (times * other)) / (1 + times)
        alike = Normal::Z * Math.sqrt((1 + (1 / times)) * mean * (1 - mean))
        apart = Normal::POWER * Math.sqrt((share * (1 - share)) + (other * (1 - other) / times))
        ((((alike + apart)**2) / ((share - other)**2)).ceil * (1 + times)).ceil
      end

      # For means: Chow, Shao, Wang and Lokhnygina 2018, section 3.2, with variances of each group's own.
      #
      # @param variance [Float] of the second group
      # @param other [Float] variance of the first group
      # @param difference [Float] of the means, not 0
      # @param times [Float] how many times as large the first group is as the second
      # @return [Integer] people in both groups together
      def of_means(variance, other, difference, times)
        (((((Normal::Z + Normal::POWER)**2) * (variance + (other / times))) / (difference**2)).ceil * (1 + times)).ceil
      end
    end
  end
end
