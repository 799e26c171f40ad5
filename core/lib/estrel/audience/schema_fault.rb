# frozen_string_literal: true

module Estrel
  module Audience
    # Puts one JSON Schema fault into words, with its place written as a path (`all[1].did.count`).
    class SchemaFault
      # @param error [Hash] as given by the schema validator
      # @param json [Hash] the whole definition
      def initialize(error, json)
        @error = error
        @json = json
      end

      # @param segments [Array<String>]
      # @return [String] a path such as `all[1].did.where[0].property`
      def self.path(segments)
        segments.reduce("") do |path, segment|
          next "#{path}[#{segment}]" if segment.match?(/\A\d+\z/)

          path.empty? ? segment : "#{path}.#{segment}"
        end
      end

      # @return [Hash{Symbol => String}] place and message
      def to_h = { place: self.class.path(segments), message: message }

      private

      def segments = @error["data_pointer"].split("/").drop(1).map { |part| part.gsub("~1", "/").gsub("~0", "~") }

      def message
        schema = @error["schema"]
        case @error["type"]
        when "required" then "needs #{@error.dig("details", "missing_keys").map { |key| "\"#{key}\"" }.join(" and ")}"
        when "enum" then "must be one of #{schema["enum"].join(", ")}, not #{shown}"
        when "minProperties", "maxProperties" then "needs exactly one of #{schema["properties"].keys.join(", ")}"
        when "schema" then unknown_key
        else "#{shown} is not allowed here: #{reason}"
        end
      end

      # Without the place that it begins with.
      def reason
        said = @error["error"].partition("` ").last
        said.empty? ? @error["error"] : said
      end

      def unknown_key
        known = keys_known
        near = Catalogue.suggestion(segments.last, known)
        "is not known here#{near.empty? ? "; use one of #{known.join(", ")}" : near}"
      end

      # The keys allowed beside an unknown one: the parent schema is where the validator found it not allowed.
      def keys_known
        parent = @error["schema_pointer"].delete_suffix("/additionalProperties")
        keys = @error["root_schema"].dig(*parent.split("/").drop(1), "properties")
        keys ? keys.keys : []
      end

      def shown = JSON.generate(@error["data"])[0, 80]
    end
  end
end
