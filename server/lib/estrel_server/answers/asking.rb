# frozen_string_literal: true

module EstrelServer
  module Answers
    # Reads definitions and policies with the audiences and policies of this workspace at hand.
    module Asking
      module_function

      # @param source [String, Hash] a definition
      # @param catalogue [Estrel::Catalogue]
      # @param of [Audience, nil] whose definition it is going to be, so that it cannot refer to itself
      # @return [Estrel::Audience::Definition]
      # @raise [Estrel::Audience::Invalid]
      def definition(source, catalogue, of: nil)
        path = of ? [[of.id, of.name]] : []
        policies = policies(catalogue)
        audiences = Estrel::Audience::AudienceSource.new(catalogue, method(:stored), path, policies)
        Estrel::Audience::Definition.parse(source.is_a?(Hash) ? JSON.generate(source) : source,
                                           catalogue: catalogue, audiences: audiences, policies: policies)
      rescue JSON::GeneratorError
        raise Estrel::Audience::Invalid, [{ place: "", message: "numbers must be finite" }]
      end

      # @param rules [Hash, nil] JSON of {Estrel::Lifecycle::Policy#to_h}
      # @param catalogue [Estrel::Catalogue]
      # @param of [LifecyclePolicy, nil] whose rules they are
      # @return [Estrel::Lifecycle::Policy, nil] nil while there is no event type that could count
      # @raise [Estrel::Lifecycle::Policy::Invalid]
      def policy(rules, catalogue, of: nil)
        return if rules.nil? || (of&.new_record? && rules["activity"].empty?)

        policies(catalogue).build(rules, id: of&.id, name: of&.name, catalogue: catalogue)
      end

      def policies(catalogue)
        Estrel::Audience::PolicySource.new(catalogue, method(:stored_policy), method(:stored))
      end
      private_class_method :policies

      def stored(id)
        row = Audience.kept.find_by(id: id)
        row && [row.name, row.current.definition]
      end
      private_class_method :stored

      # Also of a policy that has been deleted, since a version of it may be meant.
      def stored_policy(id, version)
        row = LifecyclePolicy.includes(:versions).find_by(id: id)
        rules = row&.rules_json(version)
        rules && [row.name, rules]
      end
      private_class_method :stored_policy
    end
  end
end
