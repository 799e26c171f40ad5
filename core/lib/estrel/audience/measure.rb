# frozen_string_literal: true

module Estrel
  module Audience
    # A property of the selected events taken together and compared with a number; or its first, last or most frequent
    # value compared as the property itself is. Missing values are left out; the sum and the number of different values
    # of nothing are 0, everything else of nothing is missing. Of values at the same instant the least comes first, of
    # equally frequent ones the least is taken. Frozen.
    class Measure
      # Those that give one of the property's values.
      VALUES = %w[first last most_frequent].freeze
      KINDS = (%w[sum mean min max distinct] + VALUES).freeze
      # How a number is compared.
      COMPARISONS = %w[is is_not greater at_least less at_most between].freeze
      OF_NOTHING = { "sum" => 0, "distinct" => 0 }.freeze

      # @return [String] of {KINDS}
      attr_reader :kind
      # @return [String]
      attr_reader :property
      # @return [Comparison] with a number, or for {VALUES} with a value of the property
      attr_reader :comparison

      def initialize(kind, property, comparison)
        @kind = kind
        @property = property.dup.freeze
        @comparison = comparison
        freeze
      end

      # @param rows [Polars::DataFrame] with `profile_id`, `occurred_at` and `value`, sorted by profile and time
      # @param calendar [Calendar]
      # @return [Polars::Series] ids of the profiles with any value whose measure fits
      def fitting(rows, calendar)
        taken(rows).filter(comparison.expression(Polars.col("m"), calendar))["profile_id"]
      end

      # @param rows [Polars::DataFrame, Polars::LazyFrame] as in {#fitting}
      # @param by [Array<String>] what has a measure of its own: people, or their visits
      # @return [Polars::DataFrame] these columns, and the measure `m` of everybody with any value
      def taken(rows, by: ["profile_id"])
        given = rows.lazy.filter(Polars.col("value").is_not_null)
        return one_value(given, by).collect if VALUES.include?(kind)

        given.group_by(by).agg([aggregate.alias("m")]).collect
      end

      # @param selection [Selection] whose property it is
      # @param names [Names]
      # @return [Catalogue::Field, nil] whose values it gives; a number of values has no unit
      def field(selection, names)
        names.property_field(property, selection.events) unless kind == "distinct"
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

      def one_value(given, by)
        order = if kind == "most_frequent"
                  rarity = (Polars.len.cast(Polars::Int64) * -1).alias("rank")
                  given = given.group_by([*by, "value"]).agg([rarity])
                  [*by, "rank", "value"]
                else
                  [*by, "occurred_at", "value"]
                end
        pick = kind == "last" ? Polars.col("value").last : Polars.col("value").first
        given.sort(order).group_by(by, maintain_order: true).agg([pick.alias("m")])
      end
    end
  end
end
