# frozen_string_literal: true

module EstrelServer
  module DefinitionFiles
    # In files things refer to each other by name, since numbers differ from one installation to the next.
    class Names
      KINDS = { "audience" => Audience, "rule_set" => RuleSet }.freeze
      private_constant :KINDS

      # @param json [Object] with numbers: `{"audience": {"id": 3}}`, `{"rule_set": {"id": 2}}`
      # @return [Object] with names: `{"audience": {"name": "Commuters"}}`
      # @raise [Error] where something private is meant, which is in no file
      def self.from_numbers(json)
        walk(json, "id") { |kind, id| { "name" => shared(KINDS.fetch(kind), id).name } }
      end

      # @param json [Object] with names
      # @yieldparam kind [String] "audience", "rule_set"
      # @yieldparam name [String]
      # @yieldreturn [Integer]
      # @return [Object] with numbers
      def self.to_numbers(json) = walk(json, "name") { |kind, name| { "id" => yield(kind, name) } }

      # @param json [Object] with names
      # @return [Array<Array(String, String)>] kind and name of what it refers to
      def self.in(json)
        found = []
        to_numbers(json) { |kind, name| found << [kind, name] }
        found.uniq
      end

      def self.shared(model, id)
        model.where(private: false, deleted_at: nil).find_by(id: id) ||
          raise(Error, "the #{model.model_name.human.downcase} with the number #{id} is private or deleted")
      end
      private_class_method :shared

      def self.walk(node, by, &)
        case node
        when Array then node.map { |child| walk(child, by, &) }
        when Hash
          node.to_h do |key, value|
            [key, reference?(key, value, by) ? replaced(key, value, by, &) : walk(value, by, &)]
          end
        else node
        end
      end
      private_class_method :walk

      def self.reference?(key, value, by) = KINDS.key?(key) && value.is_a?(Hash) && value.key?(by)
      private_class_method :reference?

      def self.replaced(kind, value, by) = { **yield(kind, value.fetch(by)), **value.except(by) }
      private_class_method :replaced
    end
  end
end
