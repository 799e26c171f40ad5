# frozen_string_literal: true

module EstrelServer
  module Importing
    # The types of property and attribute values.
    module Values
      NUMBER = /\A-?(?:0|[1-9]\d{0,17})(?:\.\d{1,17})?(?:[eE][+-]?\d{1,2})?\z/
      BOOLEANS = %w[true false].freeze
      TIME = /\A\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d{1,9})?(?:Z|[+-]\d\d:\d\d)\z/

      DATE = /\A\d{4}-\d\d-\d\d\z/

      module_function

      # @param value [Object] from JSON
      # @return [String, nil] one of the catalogue's types, "nested" for an array or object, nil for a missing value
      def type(value)
        case value
        when String then value.getbyte(10) == 84 && value.match?(TIME) ? "time" : "text" # 84: the T after a date
        when Numeric then "number"
        when true, false then "boolean"
        when nil then nil
        else "nested"
        end
      end

      # Attributes can also be dates and lists of text.
      #
      # @param value [Object] from JSON
      # @return [String, nil] as {type}, or "date" or "list"
      def attribute_type(value)
        return "list" if value.is_a?(Array) && value.all?(String)

        date?(value) ? "date" : type(value)
      end

      def date?(value)
        value.is_a?(String) && value.length == 10 && value.match?(DATE) &&
          Date.valid_date?(*value.split("-").map { |part| Integer(part, 10) })
      end

      # The type that all of a column's texts fit, so that a CSV column is read in one way throughout.
      #
      # @param texts [Array<String>] from the head of the file
      # @return [String]
      def column_type(texts)
        filled = texts.reject { |text| text.nil? || text.empty? }
        return "text" if filled.empty?
        return "number" if filled.all? { |text| text.match?(NUMBER) }
        return "boolean" if (filled - BOOLEANS).empty?

        "text"
      end

      # @param text [String, nil] a CSV field
      # @param type [String] of its column
      # @return [Object, nil] nil for an empty field; the text itself where it does not fit the type
      def from_text(text, type)
        return if text.nil? || text.empty?
        return text.to_f if type == "number" && text.match?(NUMBER)
        return text == "true" if type == "boolean" && BOOLEANS.include?(text)

        text
      end
    end
  end
end
