# frozen_string_literal: true

module Estrel
  module Statistics
    # The value below which some share of many lie. It lies between two values where need be (Hyndman and Fan's seventh
    # definition, The American Statistician 50 (1996), 361–365).
    module Quantile
      module_function

      # @param values [Array<Array(Numeric, Integer)>] in order, each with how often it occurs
      # @param share [Float] 0.5 for the median
      # @return [Numeric, nil] nil of no values
      def of(values, share)
        return if values.empty?

        place = share * (values.sum { |_, count| count } - 1)
        low, high = [place.floor, place.ceil].map { |at| value_at(values, at) }
        low + ((high - low) * (place - place.floor))
      end

      # Between which values usual variation lies: J. W. Tukey, Exploratory Data Analysis (1977).
      #
      # @param values [Array<Numeric>] at least one
      # @return [Array(Float, Float)] one and a half times the distance of the quartiles below and above these
      def fences(values)
        low, high = [0.25, 0.75].map { |share| of(values.sort.map { |value| [value, 1] }, share) }
        reach = 1.5 * (high - low)
        [low - reach, high + reach]
      end

      # The same as {of}, of columns, for many values.
      #
      # @param values [Polars::Series] of numbers, in order
      # @param counts [Polars::Series] how often each occurs
      # @param share [Float]
      # @return [Numeric, nil] nil of no values
      def of_columns(values, counts, share)
        return if values.len.zero?

        up_to = counts.cum_sum
        place = share * (up_to[-1] - 1)
        low, high = [place.floor, place.ceil].map { |at| values[up_to.search_sorted(at, side: "right")] }
        low + ((high - low) * (place - place.floor))
      end

      def value_at(values, place)
        values.each { |value, count| return value if (place -= count).negative? }
      end
      private_class_method :value_at
    end
  end
end
