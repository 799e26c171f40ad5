# frozen_string_literal: true

module Estrel
  module Audience
    # The phrases that conditions say themselves with, see {Sentence}. A phrase with a slot can be edited where it
    # stands: the slot tells how, and the path which piece of the condition's JSON.
    class Phrases
      # @param selection [Selection]
      # @param catalogue [Catalogue]
      # @return [String] what was done, with its conditions: "ended a ride where distance is more than 5 km"
      def self.done(selection, catalogue) = new(catalogue).selected(selection, "").map { |part| part[:text] }.join(" ")

      # @return [Names]
      attr_reader :names

      # @param catalogue [Catalogue] gives the types of properties, and names
      def initialize(catalogue)
        @catalogue = catalogue
        @names = catalogue.names
      end

      # @return [Hash] connecting words
      def plain(text) = part(text, nil, nil, nil)

      # @param raw [String, nil] the raw name behind the text
      # @return [Hash] a phrase
      def part(text, ink, slot, path, about = nil, raw: nil)
        { text: text, ink: ink, slot: slot, path: path, about: about, raw: raw == text ? nil : raw }
      end

      # @param selection [Selection]
      # @param path [String]
      # @return [Array<Hash>] what was done, and the conditions on its properties
      def selected(selection, path) = [events(selection, path), *conditions(selection, path)]

      # @return [Array<Hash>] the same beside others: "either", where there are several event types
      def beside(selection, path)
        selected = selected(selection, path)
        selection.events.to_a.size > 1 ? [plain("either"), *selected] : selected
      end

      # @param slot [String]
      # @param done [Boolean] rather than "have not …"
      # @return [Hash] what was done
      def events(selection, path, slot: "events", done: true)
        part(names.events(selection.events, done: done), "what", slot, path, raw: selection.events&.join(", "))
      end

      # @param name [String] of an attribute
      # @param path [String]
      # @return [Hash]
      def attribute(name, path) = part(names.attribute(name), "who", "attribute", path, raw: name)

      # @return [Hash] when
      def window(window, path) = part(Wording.window(window), "when", "window", path)

      # @param group [FilterGroup]
      # @param key [String] under which these stand
      # @param opening [String] the word before the first of them
      # @return [Array<Hash>] the conditions on events, those of the selection unless others are given
      def conditions(selection, path, group = selection.where, key = "where", opening: "where")
        filters = group.filters.each_with_index.reject { |filter, _| empty?(filter) }
        filters.each_with_index.flat_map do |(filter, place), index|
          [plain(index.zero? ? opening : "and"), *condition(filter, "#{path}.#{key}[#{place}]", selection)]
        end
      end

      # @return [Hash] an event type that has the property, for offering its values
      def property(selection, name)
        owner = selection.types(@catalogue).find { |type| type.properties.key?(name) }
        { event: owner&.name, property: name }
      end

      # @param measure [Measure]
      # @param selection [Selection]
      # @param path [String]
      # @return [Array<Hash>] what a property comes to: "total price is at least 25"
      def measured(measure, selection, path)
        about = if Measure::VALUES.include?(measure.kind) then property(selection, measure.property)
                else { property: measure.property, type: "number" }
                end
        [part(Wording::MEASURES.fetch(measure.kind), "what", "count", path),
         part(names.property(measure.property, selection.events), "what", "count", path, raw: measure.property),
         *comparison(measure.comparison, "what", "#{path}.measure", about, field: measure.field(selection, names))]
      end

      # @param comparison [Comparison]
      # @param ink [String]
      # @param path [String]
      # @param about [Hash] which attribute or property is compared
      # @param ever [Boolean] whether any value there has been will do
      # @param field [Catalogue::Field, nil] whose values are compared
      # @return [Array<Hash>]
      def comparison(comparison, ink, path, about, ever: false, field: field(about))
        about = { type: comparison.type, **about }
        words = [part(Wording.comparison(comparison.operator, ever: ever), ink, "compare", path, about)]
        return words if Comparison::WITHOUT_VALUE.include?(comparison.operator)

        full = Array(comparison.value).map(&:to_s)
        raw = full.join(", ") if full.any? { |text| text.length > English::SHOWN }
        words << part(Wording.values(comparison, names, field), ink, "value", path, about, raw: raw)
        words << plain("(ignoring case)") if comparison.ignore_case?
        words
      end

      private

      def field(about)
        return names.attribute_field(about[:attribute]) if about[:attribute]

        about[:property] && names.property_field(about[:property], about[:event] && [about[:event]])
      end

      def condition(filter, path, selection)
        return group(filter, path, selection) if filter.is_a?(FilterGroup)
        return standing(filter, path) if filter.is_a?(AttributeFilter)
        return so_far(filter, path) if filter.is_a?(SoFarFilter)

        name = filter.property
        about = property(selection, name)
        [part(names.property(name, selection.events), "what", "property", path, about, raw: name),
         *comparison(filter.comparison, "what", path, about)]
      end

      def standing(filter, path)
        name = filter.attribute
        [part("#{names.attribute(name)} at that time", "what", "property", path, { attribute: name }, raw: name),
         *comparison(filter.comparison, "what", path, { attribute: name })]
      end

      def so_far(filter, path)
        [part(so_far_said(filter), "what", "property", path), *comparison(filter.comparison, "what", path, {})]
      end

      # "total minutes spent", "highest distance so far when they ended a ride"
      def so_far_said(filter)
        return "total minutes spent" if filter.minutes?

        event, property = filter.so_far.values_at("event", "property")
        "highest #{names.property(property, [event])} so far when they #{names.events([event])}"
      end

      # An empty "all" asks nothing; an empty "any" holds for no event.
      def empty?(filter)
        filter.is_a?(FilterGroup) && filter.kind == "all" && filter.filters.all? { |inner| empty?(inner) }
      end

      def group(group, path, selection)
        return [plain("(no alternatives yet)")] if group.filters.empty?

        joint = plain(group.kind == "any" ? "or" : "and")
        filters = group.filters.each_with_index.reject { |filter, _| empty?(filter) }
        inner = filters.flat_map do |filter, index|
          [joint, *condition(filter, "#{path}.#{group.kind}[#{index}]", selection)]
        end
        return inner.drop(1) if filters.one?

        [plain(group.kind == "any" ? "either" : "both"), *inner.drop(1)]
      end
    end
  end
end
