# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Counts rows by small whole numbers. Several numbers are put into one first: grouping by one column is many times
    # faster than by several.
    module Tally
      module_function

      # @param frame [Polars::DataFrame]
      # @param code [Polars::Expr] whole numbers
      # @param weight [String, nil] column that says what each row counts as; nil for one
      # @return [Hash{Integer => Integer}] rows per number
      def of(frame, code, weight: nil)
        columns = [code.cast(Polars::Int64).alias("code"), *(weight && Polars.col(weight))]
        counted = weight ? Polars.col(weight).sum : Polars.len
        frame.lazy.select(columns).group_by("code").agg([counted.alias("n")]).collect.rows.to_h
      end

      # Running sums per group.
      #
      # @param counts [Hash{Integer => Integer}] by group times width plus place
      # @param groups [Integer]
      # @param width [Integer] places of a group
      # @return [Array<Array<Integer>>] per group, at each place, what stands there and before
      def running(counts, groups, width)
        Array.new(groups) do |group|
          total = 0
          Array.new(width) { |place| total += counts.fetch((group * width) + place, 0) }
        end
      end
    end
  end
end
