# frozen_string_literal: true

module EstrelServer
  module Importing
    # The types of property and attribute values.
    module Values
      NUMBER = /\A-?(?:0|[1-9]\d{0,17})(?:\.\d{1,17})?(?:[eE][+-]?\d{1,2})?\z/
      BOOLEANS = %w[true false].freeze
      TIME = /\A\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d{1,9})?(?:Z|[+-]\d\d:\d\d)\z/

      # A day with its year last: "31/10/2026", "3.4.2025"
      YEAR_LAST = %r{\A\d{1,2}[./-]\d{1,2}[./-]\d{4}\z}

      # A number with a decimal comma, its thousands with points or without.
      GROUPED = /\A-?(?:\d{1,3}(?:\.\d{3}){1,5}|\d{1,18})(?:,\d{1,17})?\z/

      # A number with a unit before or behind it: "12,50 €", "1.234 kg", "$ 5". linear: the parts cannot take each
      # other's characters.
      MEASURED = /\A([^\d\s.,+-]{1,6})?\s?(-?\d[\d.,]{0,40})\s?([^\d\s.,+-][^\d]{0,11})?\z/
      # The type of a column of numbers that all have one unit, before the unit.
      OF_UNIT = "number of "
      private_constant :MEASURED, :OF_UNIT

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
      # @param comma [Boolean] whether numbers are written with a decimal comma
      # @return [String] "number", "boolean" or "text", or for days with their year last one of {Instants::YEAR_LAST}
      def column_type(texts, comma: false)
        filled = texts.reject { |text| text.nil? || text.empty? }
        return "text" if filled.empty?
        return "number" if filled.all? { |text| pointed(text, comma).match?(NUMBER) }
        return "boolean" if (filled - BOOLEANS).empty?
        return Instants.slashed(filled) || "text" if filled.all? { |text| text.match?(YEAR_LAST) }

        unit = unit_of(filled, comma)
        unit ? "#{OF_UNIT}#{unit}" : "text"
      end

      # @param texts [Array<String>]
      # @param comma [Boolean] whether numbers are written with a decimal comma
      # @return [String, nil] the one unit that all of them have; nil where they are no numbers with one unit
      def unit_of(texts, comma)
        units = texts.map { |text| measured(text, comma)&.last }.uniq
        units.first if units.one? && units.first
      end

      # @param text [String]
      # @param comma [Boolean]
      # @return [Array(String, String), nil] the number as {NUMBER} has it, and the unit
      def measured(text, comma)
        before, number, behind = MEASURED.match(text.strip)&.captures
        return if number.nil? || (before.nil? == behind.nil?)

        number = pointed(number, comma)
        [number, (before || behind).strip] if number.match?(NUMBER)
      end

      # @param text [String, nil] a CSV field
      # @param type [String] of its column
      # @param comma [Boolean] whether numbers are written with a decimal comma
      # @return [Object, nil] nil for an empty field; the text itself where it does not fit the type
      def from_text(text, type, comma: false)
        return if text.nil? || text.empty?
        return pointed(text, comma).to_f if type == "number" && pointed(text, comma).match?(NUMBER)
        return of_unit(text, type, comma) if type&.start_with?(OF_UNIT)
        return day_of(text, type) if Instants::YEAR_LAST.include?(type)
        return text == "true" if type == "boolean" && BOOLEANS.include?(text)

        text
      end

      # The number, where its unit is the column's; other texts stay as they are.
      def of_unit(text, type, comma)
        number, unit = measured(text, comma)
        unit == type.delete_prefix(OF_UNIT) ? number.to_f : text
      end

      # "31/10/2026" → "2026-10-31"; the text itself where there is no such day
      def day_of(text, form)
        one, two, year = text.split(%r{[./-]}).map { |part| Integer(part, 10, exception: false) }
        day, month = form == "day_first" ? [one, two] : [two, one]
        text.match?(YEAR_LAST) && Date.valid_date?(year, month, day) ? Date.new(year, month, day).iso8601 : text
      end

      # "1.234,56" → "1234.56"
      def pointed(text, comma)
        return text unless comma && text.match?(GROUPED)

        text.delete(".").tr(",", ".")
      end
    end
  end
end
