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

      # Sorting one column of numbers is many times faster than telling apart what several columns say.
      #
      # @param frame [Polars::DataFrame]
      # @param number [Polars::Expr] whole numbers, of which many that follow each other are alike
      # @return [Polars::DataFrame] the different ones as `number`, in order
      def different(frame, number)
        fresh = Polars.col("number").ne_missing(Polars.col("number").shift(1))
        frame.lazy.select([number.cast(Polars::Int64).alias("number")]).filter(fresh).sort("number").filter(fresh).collect
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
