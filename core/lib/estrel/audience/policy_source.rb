# frozen_string_literal: true

module Estrel
  module Audience
    # Where definitions find the lifecycle policies they name, and where policies find the audiences they are about.
    # Refuses policies that are defined by themselves, and names the ring.
    class PolicySource
      # A policy: its name and rules, or the fault that makes it unusable. Without either: the one in force is meant.
      Found = Struct.new(:name, :policy, :fault, keyword_init: true)

      # @param catalogue [Catalogue]
      # @param lookup [#call] gives name and rules, as JSON of {Lifecycle::Policy#to_h}, for a policy's number and a
      #   version (nil for the newest), or nil
      # @param audiences [#call] as the lookup of {AudienceSource}
      # @param path [Array<Array(Integer, String)>] numbers and names of the policies being read, the outermost first
      def initialize(catalogue, lookup, audiences, path = [])
        @catalogue = catalogue
        @lookup = lookup
        @audiences = audiences
        @path = path
      end

      # @param reference [Hash, nil] as in a lifecycle clause: `id` and maybe `version`, or `rules`
      # @return [Found]
      def call(reference)
        return in_force if reference.nil?
        return other(reference["rules"]) if reference["rules"]
        return Found.new(fault: ring(reference["id"])) if @path.any? { |number, _| number == reference["id"] }

        named(*reference.values_at("id", "version"))
      rescue Lifecycle::Policy::Invalid, Invalid => e
        Found.new(fault: e.errors.first[:message])
      end

      # @param rules [Hash] JSON of {Lifecycle::Policy#to_h}
      # @param id [Integer, nil] whose rules they are
      # @param name [String, nil]
      # @param catalogue [Catalogue] kept rules are read with all there is, others with what whoever writes them may ask
      #   about
      # @return [Lifecycle::Policy]
      # @raise [Lifecycle::Policy::Invalid]
      def build(rules, id: nil, name: nil, catalogue: @catalogue.whole)
        known = %w[activity new_for active_within churned_after channel].to_h { |key| [key.to_sym, rules[key]] }
        policy = Lifecycle::Policy.new(**known)
        policy.check(catalogue)
        rules["population"] ? policy.with(population: population(rules["population"], id, name)) : policy
      end

      private

      def other(rules) = Found.new(name: "other rules", policy: build(rules, catalogue: @catalogue))

      def in_force
        return Found.new if @path.empty?

        Found.new(fault: "a lifecycle clause that names no policy means the one in force, so \"#{@path.last.last}\" " \
                         "could come to be defined by itself; name a policy in that clause")
      end

      def named(id, version)
        name, rules = @lookup.call(id, version)
        return Found.new(fault: "no policy with the number #{id}#{", version #{version}" if version}") unless name

        Found.new(name: name, policy: build(rules, id: id, name: name))
      end

      def population(audience, id, name)
        inner = PolicySource.new(@catalogue.whole, @lookup, @audiences, [*@path, [id, name || "this policy"]])
        found = AudienceSource.new(@catalogue.whole, @audiences, [], inner).call(audience)
        fault = found ? found.fault : "no audience with the number #{audience}"
        raise Lifecycle::Policy::Invalid, [{ place: "population", message: fault }] if fault

        Lifecycle::Policy::Population.new(id: audience, name: found.name, definition: found.definition)
      end

      def ring(id)
        names = @path.drop_while { |number, _| number != id }.map(&:last)
        "the policies are defined by each other in a ring: #{[*names, names.first].join(" → ")}"
      end
    end
  end
end
