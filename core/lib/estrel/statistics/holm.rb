# frozen_string_literal: true

module Estrel
  module Statistics
    # What is beyond chance although many were looked at (S. Holm, A simple sequentially rejective multiple test
    # procedure, Scandinavian Journal of Statistics 6 (1979), 65–70).
    module Holm
      LEVEL = 0.05
      private_constant :LEVEL

      module_function

      # @param all [Array] all that were looked at
      # @yieldparam one [Object]
      # @yieldreturn [Float] its p-value
      # @return [Array] those beyond chance; the chance that any of them is not so is at most 5%
      def beyond_chance(all)
        sorted = all.map { |one| [one, yield(one)] }.sort_by(&:last)
        sorted.take_while.with_index { |(_, p_value), at| p_value <= LEVEL / (sorted.size - at) }.map(&:first)
      end
    end
  end
end
