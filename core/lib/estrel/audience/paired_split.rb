# frozen_string_literal: true

module Estrel
  module Audience
    # What people are told apart by two ways at once, as by plan and state: a value for each pair that occurs. Knows all
    # that a {Split} does. Frozen.
    class PairedSplit
      # @return [String] "both"
      attr_reader :by
      # @return [Array<Split>] the two
      attr_reader :splits

      # @param splits [Array<Split>] two
      # @raise [Invalid] where both are the same
      def initialize(splits)
        raise Invalid, [{ place: "", message: "choose two different splits" }] if splits.map(&:key).uniq.one?

        @by = "both"
        @splits = splits.dup.freeze
        freeze
      end

      # @return [Object] names the split completely
      def key = [by, *splits.map(&:key)]

      # @return [Array<Split>] see {Split#parts}
      def parts = splits

      # @return [nil] see {Split#order}
      def order = nil

      # @return [Boolean] see {Split#changes?}
      def changes? = splits.any?(&:changes?)

      # @return [Array<String>] see {Split#attributes}
      def attributes = splits.flat_map(&:attributes)

      # @param evaluator [Evaluator]
      # @return [Polars::Series] "value": text, one per profile, see {Pair}
      def values(evaluator)
        columns = splits.zip(%w[left right]).map { |split, name| evaluator.values_of(split).alias(name) }
        pair = Pair.of(Polars.col("left"), Polars.col("right"))
        Polars::DataFrame.new(columns).select([pair.alias("value")])["value"]
      end

      # @param value [String] of {#values}
      # @return [String] "monthly pass, dormant"
      def said(value)
        Pair.taken_apart(value).zip(splits).map { |part, split| part.nil? ? "not set" : split.said(part) }.join(", ")
      end

      # @param value [String] of {#values}
      # @return [Hash] the condition, as JSON, of everybody with the two values
      def condition(value)
        { "all" => Pair.taken_apart(value).zip(splits).map { |part, split| split.condition(part) } }
      end

      # @param values [Array<String>]
      # @return [Hash] the condition, as JSON, of everybody with another pair than these
      def other(values) = { "all" => values.map { |value| { "not" => condition(value) } } }

      # @return [Hash{Symbol => Object}] see {Split#group}
      def group(kind, value, named)
        { kind: kind.to_s, value: value, people_in: kind == :other ? other(named) : condition(value) }
      end
    end
  end
end
