# frozen_string_literal: true

module Estrel
  module Analyses
    # By which groups of people something is compared: audiences chosen one by one, or the values of a split. Those of a
    # split have to be counted in all parts before the most frequent can be told apart.
    class Groups
      # How many values are told apart unless another number is asked for.
      TOP = 20

      # @param audiences [Array<Stored::NamedAudience>]
      # @param split [Audience::Split, nil]
      # @param top [Integer, nil]
      def initialize(audiences, split, top)
        @audiences = audiences
        @split = split
        @top = top || TOP
      end

      # @return [Boolean] whether values have to be counted first
      def counted_first? = !@split.nil?

      # @param part [Audience::Evaluator]
      # @return [Hash{String, nil => Integer}] people per value
      def counts(part) = part.within_rule_set.value_counts(@split)

      # @param part [Audience::Evaluator]
      # @param counts [Hash] those of all parts, where values were counted first
      # @return [Array<Lifecycle::Grouping>] of the people in the part
      def of(part, counts)
        people = part.within_rule_set
        return [people.groups(@split, labels(counts))] if @split

        @audiences.map { |audience| people.group(audience.definition, audience.id) }
      end

      # @param counts [Hash]
      # @return [Array<Hash{Symbol => Object}>] of every group, one after the other: `id` of the audience, `kind`,
      #   `value`, and `people_in`, the condition that finds its people
      def named(counts)
        return @audiences.map { |audience| named_audience(audience) } unless @split

        told = labels(counts)
        names = told.filter_map { |kind, value| value if kind == :value }
        told.map { |kind, value| { id: nil, **@split.group(kind, value&.to_s, names) } }
      end

      # @param counts [Hash]
      # @return [Array<Array>] of the values of the split, see {Lifecycle::Grouping.labels}
      def labels(counts)
        return Lifecycle::Grouping.in_order(counts, @split.order) if @split.order

        Lifecycle::Grouping.labels(counts, @top)
      end

      private

      def named_audience(audience)
        { id: audience.id, kind: "audience", value: audience.name,
          people_in: { "audience" => { "id" => audience.id } } }
      end
    end
  end
end
