# frozen_string_literal: true

module Estrel
  # What is wrong with a value that does not keep to its JSON Schema, in words.
  module SchemaFault
    module_function

    # @param fault [Hash] as json_schemer tells it
    # @return [Hash{Symbol => String}] `place`, as a path such as `by.attribute`, and `message`
    def told(fault) = { place: fault["data_pointer"].delete_prefix("/").tr("/", "."), message: message(fault) }

    # @param fault [Hash] as json_schemer tells it
    # @return [String]
    def message(fault)
      schema = fault["schema"]
      case fault["type"]
      when "required" then "is missing: #{fault.dig("details", "missing_keys").join(", ")}"
      when "enum" then "must be one of #{schema["enum"].compact.join(", ")}"
      when "format" then format(schema["format"])
      when "schema" then "is not known here"
      when "minimum", "maximum" then range(schema)
      when "minLength", "maxLength" then length(schema)
      when "minItems", "maxItems" then items(schema)
      else "must be #{kinds(schema["type"])}"
      end
    end

    def kinds(type)
      words = { "integer" => "a whole number", "number" => "a number", "string" => "text",
                "boolean" => "true or false", "array" => "a list", "object" => "an object", "null" => "nothing" }
      found = Array(type).filter_map { |name| words[name] }
      found.empty? ? "of another form" : found.join(" or ")
    end
    private_class_method :kinds

    def format(name) = name == "date" ? "must be a date such as 2026-05-31" : "is no #{name}"
    private_class_method :format

    def range(schema) = "must be #{kinds(schema["type"])} #{between(schema["minimum"], schema["maximum"])}".rstrip
    private_class_method :range

    def length(schema) = "must be text of #{between(schema["minLength"], schema["maxLength"])} characters"
    private_class_method :length

    def items(schema) = "must be a list of #{between(schema["minItems"], schema["maxItems"])} entries"
    private_class_method :items

    def between(least, most)
      return "from #{least} to #{most}" if least && most

      least ? "at least #{least}" : "at most #{most}"
    end
    private_class_method :between
  end
end
