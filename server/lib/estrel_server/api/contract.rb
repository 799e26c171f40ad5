# frozen_string_literal: true

module EstrelServer
  module API
    # What the published description says about every operation, and whether a request keeps to it: each query parameter
    # and each body is checked here, before a route sees it.
    class Contract
      INTEGER = /\A(?:0|-?[1-9]\d{0,17})\z/
      NUMBER = /\A-?\d{1,15}(?:\.\d{1,15})?(?:e-?\d{1,2})?\z/ # linear: every part is bounded
      # What any number in a body may be.
      INTEGERS = (-(2**63)..((2**63) - 1))
      SHOWN_FAULTS = 20

      # A request that does not keep to the description.
      class Broken < StandardError
        # @return [Array<Hash>] `place` and `message`
        attr_reader :errors

        def initialize(message, errors = [])
          @errors = errors
          super(message)
        end
      end

      # @return [Contract] the one of this process
      def self.published = @published ||= new(Description.document)

      # @param document [Hash] an OpenAPI 3.1 description
      def initialize(document)
        @document = document
        @root = JSONSchemer.openapi(document)
        @schemas = {}
        @mutex = Mutex.new
      end

      # @param verb [String] "GET"
      # @param path [String] "/people/:id" as the route is written
      # @return [Operation, nil]
      def operation(verb, path)
        template = path.gsub(/:([a-z_]+)/, '{\1}') # linear: our own paths
        item = @document["paths"][template] or return
        item.key?(verb.downcase) ? Operation.new(self, ["paths", template, verb.downcase]) : nil
      end

      # @param pointer [Array<String>] into the document
      # @return [Object] what stands there, references followed
      def at(pointer) = followed(@document.dig(*pointer))

      # @param node [Object]
      # @return [Object] what it refers to, or itself
      def followed(node)
        node = @document.dig(*node["$ref"].delete_prefix("#/").split("/")) while node.is_a?(Hash) && node.key?("$ref")
        node
      end

      # @param pointer [Array<String>] of a schema
      # @param value [Object] parsed JSON
      # @return [Array<Hash>] faults with `place` and `message`
      def faults(pointer, value)
        schema = @mutex.synchronize { @schemas[pointer] ||= @root.ref(reference(pointer)) }
        Estrel::SchemaFault.all(schema.validate(value), SHOWN_FAULTS)
      end

      private

      def reference(pointer)
        parts = pointer.map { |part| URI.encode_www_form_component(part.gsub("~", "~0").gsub("/", "~1")) }
        "#/#{parts.join("/")}"
      end
    end
  end
end
