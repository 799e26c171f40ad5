# frozen_string_literal: true

module Estrel
  module Audience
    # A property of the selected events taken together and compared with a number. Missing values are left out; the sum
    # and the number of different values of nothing are 0, its mean, minimum and maximum are missing. Frozen.
    class Measure
      KINDS = %w[sum mean min max distinct].freeze
      OF_NOTHING = { "sum" => 0, "distinct" => 0 }.freeze

      # @return [String] of {KINDS}
      attr_reader :kind
      # @return [String]
      attr_reader :property
      # @return [Comparison] with a number
      attr_reader :comparison

      def initialize(kind, property, comparison)
        @kind = kind
        @property = property.dup.freeze
        @comparison = comparison
        freeze
      end

      # @param rows [Polars::DataFrame] with `profile_id` and `value`
      # @param calendar [Calendar]
      # @return [Polars::Series] ids of the profiles with any value whose measure fits
      def fitting(rows, calendar)
        given = rows.lazy.filter(Polars.col("value").is_not_null).group_by("profile_id").agg([aggregate.alias("m")])
        given.filter(comparison.expression(Polars.col("m"), calendar)).select("profile_id").collect["profile_id"]
      end

      # @return [Boolean] whether somebody without any value fits
      def nothing_fits?
        OF_NOTHING.key?(kind) ? comparison.fits_number?(OF_NOTHING.fetch(kind)) : comparison.fits_missing?
      end

      # @return [Hash] plain JSON
      def to_h = { "of" => property, "take" => kind, **comparison.to_h }

      private

      def aggregate
        value = Polars.col("value")
        kind == "distinct" ? value.n_unique.cast(Polars::Float64) : value.public_send(kind)
      end
    end
  end
end
