# frozen_string_literal: true

module Estrel
  # One fault of a value that does not keep to its JSON Schema, in words and with its place.
  class SchemaFault
    TYPES = { "integer" => "a whole number", "number" => "a number", "string" => "text", "boolean" => "true or false",
              "array" => "a list", "object" => "an object", "null" => "nothing" }.freeze
    FORMATS = { "date" => "date such as 2026-05-31", "date-time" => "moment such as 2026-05-31T08:00:00Z" }.freeze
    # Of what was given, so many characters are repeated.
    SHOWN = 80
    private_constant :TYPES, :FORMATS, :SHOWN

    # @param errors [Enumerable<Hash>] as json_schemer tells them
    # @param most [Integer] how many faults are given at most
    # @return [Array<Hash{Symbol => String}>] see {#to_h}. Where a field may be left out, "nothing" is one of its forms:
    #   a value that fits none of them has the faults of the others only
    def self.all(errors, most = 20)
      errors = errors.first(2 * most)
      faults = errors.reject { |error| spare?(error, errors) }.first(most)
      faults.map { |error| new(error).to_h }.uniq
    end

    def self.spare?(error, errors)
      place = error["data_pointer"]
      case error["type"]
      when "null" then errors.any? do |other|
        !other.equal?(error) && "#{other["data_pointer"]}/".start_with?("#{place}/")
      end
      when "pattern" then errors.any? { |other| other["type"] == "format" && other["data_pointer"] == place }
      else false
      end
    end
    private_class_method :spare?

    # @param segments [Array<String>]
    # @return [String] a path such as `all[1].did.where[0].property`
    def self.path(segments)
      segments.reduce("") do |path, segment|
        next "#{path}[#{segment}]" if segment.match?(/\A\d+\z/)

        path.empty? ? segment : "#{path}.#{segment}"
      end
    end

    # @param schema [Hash]
    # @return [String] what a value of it has to be, such as "must be a whole number"
    def self.type(schema)
      found = Array(schema["type"]).filter_map { |name| TYPES[name] }
      "must be #{found.empty? ? "of another form" : found.join(" or ")}"
    end

    # @param error [Hash] as json_schemer tells it
    def initialize(error)
      @error = error
      @schema = error["schema"]
    end

    # @return [Hash{Symbol => String}] `place`, and `message`, which names the field itself
    def to_h = { place: self.class.path(segments), message: message }

    # @return [String]
    def message
      case @error["type"]
      when "required" then "#{missing.join(" and ")} #{missing.one? ? "is" : "are"} missing"
      when "minProperties", "maxProperties"
        "#{field} must be exactly one of #{@schema["properties"].keys.join(", ")}"
      when "schema" then "#{field} #{unknown_key}"
      else "#{field} #{allowed}, not #{shown}"
      end
    end

    private

    def missing = @error.dig("details", "missing_keys").map { |key| English.field(key) }

    # The innermost name on the way to the value: entries of a list are called by the list.
    def field
      name = segments.rindex { |segment| !segment.match?(/\A\d+\z/) } or return "this"
      inner = segments[name + 1]
      "#{"entry #{inner.to_i + 1} of " if inner}#{English.field(segments[name])}"
    end

    def segments = unescaped(@error["data_pointer"])

    def unescaped(pointer) = pointer.split("/").drop(1).map { |part| part.gsub("~1", "/").gsub("~0", "~") }

    def allowed
      case @error["type"]
      when "enum" then "must be one of #{@schema["enum"].compact.join(", ")}"
      when "format" then "must be a #{FORMATS.fetch(@schema["format"], @schema["format"])}"
      when "minimum", "maximum" then "#{self.class.type(@schema)} #{between("minimum", "maximum")}"
      when "minLength", "maxLength" then "must be text of #{between("minLength", "maxLength")} characters"
      when "minItems", "maxItems" then "must be a list of #{between("minItems", "maxItems")} entries"
      when "uniqueItems" then "must not contain duplicates"
      when "type", *TYPES.keys then self.class.type(@schema)
      else reason
      end
    end

    # In the validator's own words, without the place that they begin with.
    def reason
      said = @error["error"].partition("` ").last
      said.empty? ? @error["error"] : said
    end

    def between(least, most)
      least, most = @schema.values_at(least, most)
      return "from #{least} to #{most}" if least && most

      least ? "at least #{least}" : "at most #{most}"
    end

    def unknown_key
      known = keys_known
      near = Catalogue.suggestion(segments.last.to_s, known)
      "is not a known field#{near.empty? && known.any? ? "; use one of #{known.join(", ")}" : near}"
    end

    # The keys allowed beside an unknown one: the parent schema is where the validator found it not allowed.
    def keys_known
      place = unescaped(@error["schema_pointer"].delete_suffix("/additionalProperties"))
      parent = place.reduce(@error["root_schema"]) { |node, key| node.is_a?(Array) ? node[key.to_i] : node&.[](key) }
      parent.is_a?(Hash) ? (parent["properties"] || {}).keys : []
    end

    def shown = JSON.generate(@error["data"], allow_nan: true)[0, SHOWN]
  end
end
