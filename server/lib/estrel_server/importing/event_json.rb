# frozen_string_literal: true

module EstrelServer
  module Importing
    # How JSON from outside is read, wherever it comes from, and what a value of a property or an attribute may be.
    #
    # Values nest up to a depth. A number stays a number where it can be kept exactly: an integer that fits 64 bits and
    # that a double holds, a decimal within a double's range. Any other is kept as the text it was written as, as an
    # {OutOfRange}, by which the catalogue flags the property.
    module EventJson
      MAX_NESTING = 20
      INTEGERS = (-(2**63)..((2**63) - 1))
      # Where a decimal could leave a double's range.
      HUGE = /\d[eE]\+?\d{3}|\d{300}/ # linear: every repetition is bounded

      # The text of a number that cannot be kept exactly.
      class OutOfRange < String; end

      # What the parser makes of decimals where some may be out of range.
      module Decimals
        # @param text [String]
        # @return [Float, OutOfRange]
        def self.try_convert(text) = text.to_f.then { |number| number.finite? ? number : OutOfRange.new(text) }
      end

      module_function

      # @param text [String] valid UTF-8
      # @return [Object]
      # @raise [JSON::ParserError]
      def parse(text)
        decimals = HUGE.match?(text) ? { decimal_class: Decimals } : {}
        JSON.parse(text, max_nesting: MAX_NESTING, allow_duplicate_key: true, **decimals)
      end

      # @param values [Hash{String => Object}] of properties or attributes, parsed
      # @return [Hash{String => Object}] the same, with numbers out of range as text
      def exact(values)
        if values.each_value.all? { |value| plain?(value) }
          values
        else
          values.transform_values do |value|
            exact_value(value)
          end
        end
      end

      def plain?(value)
        case value
        when Integer then held?(value)
        when Array, Hash then false
        else true
        end
      end
      private_class_method :plain?

      def exact_value(value)
        case value
        when Integer then held?(value) ? value : OutOfRange.new(value.to_s)
        when Array then value.map { |inner| exact_value(inner) }
        when Hash then value.transform_values { |inner| exact_value(inner) }
        else value
        end
      end
      private_class_method :exact_value

      def held?(number) = INTEGERS.cover?(number) && number.to_f.to_i == number
      private_class_method :held?
    end
  end
end
