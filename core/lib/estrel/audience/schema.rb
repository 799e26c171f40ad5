# frozen_string_literal: true

require "yaml"

module Estrel
  module Audience
    # What a definition may look like, as JSON Schema. What stands beneath its key is said by each kind of condition;
    # what they share stands in `schema.yaml`.
    module Schema
      TITLE = "Estrel audience definition"
      ID = "https://estrel.example/schemas/audience-definition.json"
      IN_API = "#/components/schemas/"
      private_constant :IN_API
      SHARED = YAML.safe_load_file(File.join(__dir__, "schema.yaml"), aliases: true).freeze
      # Which events are meant, beside whatever else an object says.
      SELECTION = SHARED.fetch("Selection").fetch("properties")
      # A value and what it is compared with.
      COMPARISON = SHARED.fetch("Comparison").fetch("properties")

      module_function

      # @return [Hash{String => Hash}] the schemas by name, referring to each other as in the description of the API
      def components
        @components ||= { **SHARED, "Condition" => condition }.freeze
      end

      # @return [Hash] one schema that stands alone
      def document
        { "$schema" => "https://json-schema.org/draft/2020-12/schema", "$id" => ID, "title" => TITLE,
          "description" => "A tree of all, any and not over conditions. See docs/definition-format.md.",
          "$ref" => "#/$defs/Condition",
          "$defs" => JSON.parse(JSON.generate(components).gsub(IN_API, "#/$defs/")) }
      end

      # @param name [String] of {components}
      # @return [Hash]
      def reference(name) = { "$ref" => "#{IN_API}#{name}" }

      # @param properties [Hash{String => Hash}] all that the object may have
      # @param required [Array<String>]
      # @return [Hash]
      def object(properties, required: [], **more)
        { "type" => "object", "additionalProperties" => false, "required" => required, "properties" => properties,
          **more }
      end

      # @param range [Range<Integer>]
      # @return [Hash] a whole number
      def whole(range) = { "type" => "integer", "minimum" => range.begin, "maximum" => range.end }

      # @param values [Array<String>]
      # @return [Hash] a list of some of them
      def some_of(values) = list("uniqueItems" => true, "items" => { "enum" => values })

      # @return [Hash] a list that is not empty
      def list(more) = { "type" => "array", "minItems" => 1, **more }

      # Exactly one key, which names the kind.
      def condition
        object(Condition.kinds.to_h { |key, kind| [key, kind.schema(key)] }, "minProperties" => 1, "maxProperties" => 1)
      end
      private_class_method :condition
    end
  end
end
