# frozen_string_literal: true

module Estrel
  module Audience
    # Where definitions find the rule sets they name, and where rule sets find the audiences they are about.
    # Refuses rule sets that are defined by themselves, and names the ring.
    class RuleSetSource
      # A rule set: its name and rules, or the fault that makes it unusable. Without either: the default one is meant.
      Found = Struct.new(:name, :rule_set, :fault, keyword_init: true)

      # @param catalogue [Catalogue]
      # @param lookup [#call] gives name and rules, as JSON of {Lifecycle::RuleSet#to_h}, for a rule set's number and a
      #   version (nil for the newest), or nil
      # @param audiences [#call] as the lookup of {AudienceSource}
      # @param path [Array<Array(Integer, String)>] numbers and names of the rule sets being read, the outermost first
      def initialize(catalogue, lookup, audiences, path = [])
        @catalogue = catalogue
        @lookup = lookup
        @audiences = audiences
        @path = path
      end

      # @param reference [Hash, nil] as in a lifecycle condition: `id` and maybe `version`, or `rules`
      # @return [Found]
      def call(reference)
        return default if reference.nil?
        return other(reference["rules"]) if reference["rules"]
        return Found.new(fault: ring(reference["id"])) if @path.any? { |number, _| number == reference["id"] }

        named(*reference.values_at("id", "version"))
      rescue Lifecycle::RuleSet::Invalid, Invalid => e
        Found.new(fault: e.errors.first[:message])
      end

      # @param rules [Hash] JSON of {Lifecycle::RuleSet#to_h}
      # @param id [Integer, nil] whose rules they are
      # @param name [String, nil]
      # @param catalogue [Catalogue] kept rules are read with all there is, others with what whoever writes them may ask
      #   about
      # @return [Lifecycle::RuleSet]
      # @raise [Lifecycle::RuleSet::Invalid]
      def build(rules, id: nil, name: nil, catalogue: @catalogue.whole)
        known = %w[activity new_for active_within churned_after channel].to_h { |key| [key.to_sym, rules[key]] }
        rule_set = Lifecycle::RuleSet.new(**known)
        rule_set.check(catalogue)
        rules["population"] ? rule_set.with(population: population(rules["population"], id, name)) : rule_set
      end

      private

      def other(rules) = Found.new(name: "other rules", rule_set: build(rules, catalogue: @catalogue))

      def default
        return Found.new if @path.empty?

        Found.new(fault: "choose a rule set in that lifecycle condition; otherwise “#{@path.last.last}” could refer " \
                         "to itself through the default rules")
      end

      def named(id, version)
        name, rules = @lookup.call(id, version)
        unless name
          return Found.new(fault: "there is no rule set with the number #{id}#{", version #{version}" if version}")
        end

        Found.new(name: name, rule_set: build(rules, id: id, name: name))
      end

      def population(audience, id, name)
        inner = RuleSetSource.new(@catalogue.whole, @lookup, @audiences, [*@path, [id, name || "this rule_set"]])
        found = AudienceSource.new(@catalogue.whole, @audiences, [], inner).call(audience)
        fault = found ? found.fault : "there is no audience with the number #{audience}"
        raise Lifecycle::RuleSet::Invalid, [{ place: "population", message: fault }] if fault

        Lifecycle::RuleSet::Population.new(id: audience, name: found.name, definition: found.definition)
      end

      def ring(id)
        names = @path.drop_while { |number, _| number != id }.map(&:last)
        "these rule sets refer to each other in a circle: #{[*names, names.first].join(" → ")}"
      end
    end
  end
end
