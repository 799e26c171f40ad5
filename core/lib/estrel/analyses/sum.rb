# frozen_string_literal: true

module Estrel
  module Analyses
    # Adds up what was found in two parts of a ledger: numbers, wherever they stand in lists and hashes; the rows of
    # data frames, which are put below each other; and whatever else knows `+`.
    module Sum
      module_function

      # @param one [Object]
      # @param other [Object] of the same shape; a key that stands in one hash only is taken over, and nil is nothing
      # @return [Object] of the same shape
      def of(one, other)
        return one || other if one.nil? || other.nil?

        case one
        when Hash then one.merge(other) { |_, left, right| of(left, right) }
        when Array then one.zip(other).map { |left, right| of(left, right) }
        when Polars::DataFrame then Polars.concat([one, other])
        else one + other
        end
      end
    end
  end
end
