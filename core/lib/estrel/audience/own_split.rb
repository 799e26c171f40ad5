# frozen_string_literal: true

module Estrel
  module Audience
    # People told apart by groups of one's own, each of which has a name and a definition: seasons in which people were
    # first seen, tenths of a chance. Whoever fits several is in the first of them. Knows all that a {Split} does.
    # Frozen.
    class OwnSplit
      # One group: what it is called, and who is in it.
      Group = Struct.new(:name, :definition)

      # @return [Array<Group>]
      attr_reader :groups

      # @param groups [Array<Group>]
      # @param fixed [Boolean] whether people stay in the group they are in, whatever they do
      def initialize(groups, fixed: false)
        @groups = groups.dup.freeze
        @fixed = fixed
        freeze
      end

      # @return [String] "grouping"
      def by = "grouping"

      # @return [Object] names the split completely
      def key = [by, *groups.map { |group| [group.name, group.definition.root.key] }]

      # @return [Boolean] see {Split#changes?}
      def changes? = !@fixed && seasons.nil?

      # @return [Array<String>] see {Split#attributes}
      def attributes = []

      # @return [Array<OwnSplit>] see {Split#parts}
      def parts = [self]

      # @return [Boolean] see {Split#as_of?}
      def as_of? = false

      # @return [Boolean] see {Split#at_the_time?}
      def at_the_time? = false

      # @return [Array<String>] the values, in the order in which they are told
      def order = groups.map(&:name)

      # @return [Array<Window>, nil] where the groups are seasons, the days of each; nil where they are something else
      def seasons
        found = groups.map { |group| group.definition.conditions }
        return unless found.all? { |conditions| conditions.one? && conditions.first.is_a?(Condition::Seen) }

        found.map { |conditions| conditions.first.window }
      end

      # The same seasons, told by when people began with something rather than by when they were first seen.
      #
      # @param selection [Selection] what they began with
      # @param catalogue [Catalogue]
      # @return [OwnSplit]
      def begun(selection, catalogue)
        told = order.zip(seasons).map do |name, window|
          first = { "first" => { **selection.to_h, "window" => window.to_h } }
          Group.new(name, Definition.parse(first, catalogue: catalogue))
        end
        OwnSplit.new(told, fixed: true)
      end

      # @param evaluator [Evaluator]
      # @return [Polars::Series] "value": text, one per profile; null where somebody is in none
      def values(evaluator)
        masks = groups.each_with_index.map { |group, at| evaluator.mask(group.definition.root).alias("in #{at}") }
        none = Polars.lit(nil).cast(Polars::String)
        value = groups.each_with_index.to_a.reverse.reduce(none) do |rest, (group, at)|
          Polars.when(Polars.col("in #{at}")).then(Polars.lit(group.name)).otherwise(rest)
        end
        Polars::DataFrame.new(masks).select([value.alias("value")])["value"]
      end

      # @param value [String] of {#values}
      # @return [String]
      def said(value) = value

      # @param value [String, nil] of {#values}
      # @return [Hash] the condition, as JSON, of everybody in the group; with nil of everybody in none
      def condition(value)
        at = value && order.index(value)
        before = groups.first(at || groups.size)
        { "all" => [*([groups[at].definition.to_h] if at), *without(before, at && groups[at])] }
      end

      # @param values [Array<String>]
      # @return [Hash] the condition, as JSON, of everybody in another group than these
      def other(values) = { "any" => (order - values).map { |value| condition(value) } }

      # @return [Hash{Symbol => Object}] see {Split#group}
      def group(kind, value, named)
        { kind: kind.to_s, value: value, people_in: kind == :other ? other(named) : condition(value) }
      end

      private

      # Nobody need be kept out of a group by one that has no people in common with it.
      def without(before, group)
        before.reject { |one| group && apart?(one, group) }.map { |one| { "not" => one.definition.to_h } }
      end

      def apart?(one, other)
        left, right = [one, other].map { |group| group.definition.conditions }
        left.one? && right.one? && left.first.apart?(right.first)
      end
    end
  end
end
