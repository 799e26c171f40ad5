# frozen_string_literal: true

module Estrel
  module Audience
    # Where definitions find the other audiences they refer to. Refuses cycles and names them.
    class AudienceSource
      # An audience by its number: name and parsed definition, or the fault that makes it unusable.
      Found = Struct.new(:name, :definition, :fault, keyword_init: true)

      # @param catalogue [Catalogue]
      # @param lookup [#call] gives name and JSON of the definition for a number, or nil
      # @param path [Array<Array(Integer, String)>] numbers and names of the audiences being read, the outermost first
      # @param rule_sets [RuleSetSource, nil] where lifecycle conditions find the rule sets they name
      def initialize(catalogue, lookup, path = [], rule_sets = nil)
        @rule_sets = rule_sets
        @catalogue = catalogue
        @lookup = lookup
        @path = path
      end

      # @param id [Integer]
      # @return [Found, nil] nil where there is no such audience
      def call(id)
        return Found.new(fault: cycle(id)) if @path.any? { |number, _| number == id }

        name, json = @lookup.call(id)
        return unless name

        inner = self.class.new(@catalogue, @lookup, [*@path, [id, name]], @rule_sets)
        Found.new(name: name, definition: Definition.parse(json, catalogue: @catalogue, audiences: inner,
                                                                 rule_sets: @rule_sets))
      rescue Invalid => e
        first = e.errors.first[:message]
        ring = first.match?(/\b(?:refer to|defined by) each other\b/)
        Found.new(fault: ring ? first : "the audience #{name.inspect} cannot be used: #{e.message}")
      end

      CYCLE = "these audiences refer to each other in a circle"
      private_constant :CYCLE

      private

      def cycle(id)
        names = @path.drop_while { |number, _| number != id }.map(&:last)
        "#{CYCLE}: #{[*names, names.first].join(" → ")}"
      end
    end
  end
end
