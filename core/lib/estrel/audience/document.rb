# frozen_string_literal: true

module Estrel
  module Audience
    # A definition as it came in: checked for size, depth and against the published JSON Schema, before any name in it
    # is looked up.
    class Document
      MAX_BYTES = 262_144
      MAX_DEPTH = 16
      SCHEMA = JSONSchemer.schema(Schema.document, format: true)
      # A node at depth d sits at most 2d + 6 JSON levels deep; more than this is refused by the JSON parser already.
      MAX_JSON_NESTING = 100
      private_constant :SCHEMA

      # @param source [String, Hash]
      def initialize(source)
        @source = source
      end

      # @return [Hash] the JSON, fit for {Parser}
      # @raise [Invalid]
      def checked
        json = @source.is_a?(String) ? parse : @source
        refuse("a definition must be a JSON object such as {\"all\": []}") unless json.is_a?(Hash)
        refuse_too_deep if depth(json) > MAX_DEPTH
        errors = SchemaFault.all(SCHEMA.validate(json))
        raise Invalid, errors if errors.any?

        json
      end

      private

      def parse
        if @source.bytesize > MAX_BYTES
          refuse("the definition is #{@source.bytesize} bytes long; at most #{MAX_BYTES} are read")
        end
        JSON.parse(@source, max_nesting: MAX_JSON_NESTING)
      rescue JSON::NestingError
        refuse_too_deep
      rescue JSON::ParserError => e
        refuse("invalid JSON: #{e.message.lines.first.to_s.strip[0, 200]}")
      end

      def depth(node)
        return 0 unless node.is_a?(Hash)

        inner = [*node["all"], *node["any"], *[node["not"]].compact].grep(Hash)
        1 + (inner.map { |child| depth(child) }.max || 0)
      end

      def refuse_too_deep = refuse("the definition is nested too deeply; at most #{MAX_DEPTH} levels are read")

      def refuse(message) = raise(Invalid, [{ place: "", message: message }])
    end
  end
end
