# frozen_string_literal: true

module Estrel
  module Audience
    # Builds the frozen tree of conditions from a checked document and looks up every name in the catalogue.
    #
    # Collects all faults before it gives up, so that an editor can mark them all at once.
    class Reading
      # @return [Catalogue]
      attr_reader :catalogue
      # @return [FieldParser]
      attr_reader :fields
      # @return [SelectionParser]
      attr_reader :selections

      # @param catalogue [Catalogue]
      # @param audiences [#call, nil] gives {AudienceSource::Found} for an audience's id; nil where there are none
      # @param rule_sets [RuleSetSource, nil] where named rule sets are found; nil where there are none
      def initialize(catalogue, audiences = nil, rule_sets = nil)
        @catalogue = catalogue
        @audiences = audiences
        @rule_sets = rule_sets
        @faults = Faults.new
        @fields = FieldParser.new(@faults)
        @selections = SelectionParser.new(catalogue, @fields, @faults)
      end

      # @param json [Hash] from {Document#checked}
      # @return [Condition] the root
      # @raise [Invalid]
      def root(json) = condition(json, "").tap { @faults.raise_if_any }

      # @param json [Hash]
      # @param place [String] of what holds it
      # @return [Condition, nil]
      def condition(json, place)
        kind, body = json.first
        Condition.kinds.fetch(kind).read(body, place.empty? ? kind : "#{place}.#{kind}", self, kind)
      end

      # @return [nil] see {Faults#add}
      def fault(...) = @faults.add(...)

      # @param body [Hash] that names an attribute
      # @param place [String]
      # @return [Catalogue::Field, nil]
      def attribute(body, place)
        name = body["name"]
        known = @catalogue.attributes
        known[name] || fault("#{place}.name", "there is no attribute \"#{name}\"", name, known.keys)
      end

      # How often something has to happen, or what a property of it has to come to.
      #
      # @param body [Hash] with `count` or `measure`
      # @param selection [Selection, nil] nil where a fault was found in it
      # @param place [String]
      # @return [Hash{Symbol => Count, Measure}, nil] `count` or `measure`; nil where a fault was found
      def how_much(body, selection, place)
        unless body["measure"]
          count = @fields.count(body["count"], "#{place}.count")
          return count && { count: count }
        end
        return fault(place, "choose a count or a measure, not both") if body["count"]

        measure = selection && @selections.measure(body["measure"], selection, "#{place}.measure")
        measure && { measure: measure }
      end

      # @param id [Integer]
      # @return [AudienceSource::Found, nil]
      def audience(id) = @audiences&.call(id)

      # @param reference [Hash, nil] as in a condition on states
      # @return [RuleSetSource::Found, nil]
      def rules(reference) = @rule_sets&.call(reference)
    end
  end
end
