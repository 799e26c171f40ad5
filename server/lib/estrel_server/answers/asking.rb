# frozen_string_literal: true

module EstrelServer
  module Answers
    # Reads definitions and rule sets with the audiences and rule sets of this workspace at hand.
    module Asking
      module_function

      # @param source [String, Hash] a definition
      # @param catalogue [Estrel::Catalogue]
      # @param of [Audience, nil] whose definition it is going to be, so that it cannot refer to itself
      # @return [Estrel::Audience::Definition]
      # @raise [Estrel::Audience::Invalid]
      def definition(source, catalogue, of: nil)
        path = of ? [[of.id, of.name]] : []
        rule_sets = rule_sets(catalogue)
        audiences = Estrel::Audience::AudienceSource.new(catalogue, method(:stored), path, rule_sets)
        Estrel::Audience::Definition.parse(source.is_a?(Hash) ? JSON.generate(source) : source,
                                           catalogue: catalogue, audiences: audiences, rule_sets: rule_sets)
      rescue JSON::GeneratorError
        raise Estrel::Audience::Invalid, [{ place: "", message: "numbers must be finite" }]
      end

      # @param rules [Hash, nil] JSON of {Estrel::Lifecycle::RuleSet#to_h}
      # @param catalogue [Estrel::Catalogue]
      # @param of [RuleSet, nil] whose rules they are
      # @return [Estrel::Lifecycle::RuleSet, nil] nil while there is no event type that could count
      # @raise [Estrel::Lifecycle::RuleSet::Invalid]
      def rule_set(rules, catalogue, of: nil)
        return if rules.nil? || (of&.new_record? && rules["activity"].empty?)

        rule_sets(catalogue).build(rules, id: of&.id, name: of&.name, catalogue: catalogue)
      end

      def rule_sets(catalogue)
        Estrel::Audience::RuleSetSource.new(catalogue, method(:stored_rule_set), method(:stored))
      end
      private_class_method :rule_sets

      def stored(id)
        row = Audience.kept.find_by(id: id)
        row && [row.name, row.current.definition]
      end
      private_class_method :stored

      # Also of a rule set that has been deleted, since a version of it may be meant.
      def stored_rule_set(id, version)
        row = RuleSet.includes(:versions).find_by(id: id)
        rules = row&.rules_json(version)
        rules && [row.name, rules]
      end
      private_class_method :stored_rule_set
    end
  end
end
