# frozen_string_literal: true

module Estrel
  module Audience
    # The phrases that conditions say themselves with, see {Sentence}. A phrase with a slot can be edited where it
    # stands: the slot tells how, and the path which piece of the condition's JSON.
    class Phrases
      # @param catalogue [Catalogue] gives the types of properties
      def initialize(catalogue)
        @catalogue = catalogue
      end

      # @return [Hash] connecting words
      def plain(text) = part(text, nil, nil, nil)

      # @return [Hash] a phrase
      def part(text, ink, slot, path, about = nil) = { text: text, ink: ink, slot: slot, path: path, about: about }

      # @param selection [Selection]
      # @param path [String]
      # @return [Array<Hash>] what was done, and the conditions on its properties
      def selected(selection, path) = [events(selection, path), *conditions(selection, path)]

      # @return [Hash] what was done
      def events(selection, path) = part(Wording.events(selection), "what", "events", path)

      # @return [Hash] when
      def window(window, path) = part(Wording.window(window), "when", "window", path)

      # @return [Array<Hash>] the conditions on properties
      def conditions(selection, path)
        selection.where.filters.each_with_index.flat_map do |filter, index|
          [plain(index.zero? ? "where" : "and"), *condition(filter, "#{path}.where[#{index}]", selection)]
        end
      end

      # @return [Hash] an event type that has the property, for offering its values
      def property(selection, name)
        owner = selection.types(@catalogue).find { |type| type.properties.key?(name) }
        { event: owner&.name, property: name }
      end

      # @param comparison [Comparison]
      # @param ink [String]
      # @param path [String]
      # @param about [Hash] which attribute or property is compared
      # @param ever [Boolean] whether any value there has been will do
      # @return [Array<Hash>]
      def comparison(comparison, ink, path, about, ever: false)
        about = { type: comparison.type, **about }
        words = [part(Wording.comparison(comparison.operator, ever: ever), ink, "compare", path, about)]
        return words if Comparison::WITHOUT_VALUE.include?(comparison.operator)

        words << part(Wording.values(comparison), ink, "value", path, about)
        words << plain("(ignoring case)") if comparison.ignore_case?
        words
      end

      private

      def condition(filter, path, selection)
        return group(filter, path, selection) if filter.is_a?(FilterGroup)

        about = property(selection, filter.property)
        [part(filter.property, "what", "property", path, about), *comparison(filter.comparison, "what", path, about)]
      end

      def group(group, path, selection)
        joint = plain(group.kind == "any" ? "or" : "and")
        inner = group.filters.each_with_index.flat_map do |filter, index|
          [joint, *condition(filter, "#{path}.#{group.kind}[#{index}]", selection)]
        end
        [plain("("), *inner.drop(1), plain(")")]
      end
    end
  end
end
