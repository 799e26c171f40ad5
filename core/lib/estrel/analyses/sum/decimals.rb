# frozen_string_literal: true

module Estrel
  module Analyses
    module Sum
      # Sums of decimal fractions, as prices and distances are: exact, so that they are the same in whatever parts and
      # order they are added up, and can be taken away again.
      module Decimals
        # What whole numbers, and what fractions of six places, are whole multiples of.
        UNITS = [1, 1_000_000].freeze
        # Up to here a float holds every whole number, and sums fit into 64 bits.
        WHOLE = 2**53
        ROOM = 2**62
        private_constant :UNITS, :WHOLE, :ROOM

        module_function

        # @param rows [Polars::DataFrame] `value`, floats of which none is missing
        # @param by [String] a column of whole numbers
        # @return [Hash{Integer => Rational, Float}] by these the sum of the values: a Rational; a Float, which is not
        #   exact, where a value has more places or is too large
        def of(rows, by)
          value = Polars.col("value")
          unit = unit(rows)
          summed = unit ? (value * unit).round(0).cast(Polars::Int64) : value
          sums = rows.group_by(by).agg([summed.sum]).rows.to_h
          unit ? sums.transform_values { |sum| Rational(sum, unit) } : sums
        end

        # A fraction has been read as the float nearest to it, which is what it is once more when it is divided by its
        # unit. By a column: dividing by one number is multiplying by its inverse, which rounds twice.
        def unit(rows)
          UNITS.find do |unit|
            whole = (rows["value"] * unit).round(0)
            sizes = whole.abs
            next false if (sizes.max || 0) > WHOLE || (sizes.sum || 0) >= ROOM

            ((whole / Polars.repeat(unit.to_f, whole.len, eager: true)) == rows["value"]).all
          end
        end
        private_class_method :unit
      end
    end
  end
end
