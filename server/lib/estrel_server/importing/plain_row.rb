# frozen_string_literal: true

module EstrelServer
  module Importing
    # One row of a CSV file without quotes and with as many fields as the header, taken apart only when somebody asks
    # for its values.
    class PlainRow
      # @return [Integer]
      attr_reader :number
      # @return [String]
      attr_reader :original

      # @param number [Integer]
      # @param original [String]
      # @param headers [Array<String>]
      # @param separator [String]
      def initialize(number, original, headers, separator)
        @number = number
        @original = original
        @headers = headers
        @separator = separator
      end

      # @return [nil] such a row can always be read
      def fault = nil

      # @return [Hash{String => String}]
      def values = @values ||= @headers.zip(@original.split(@separator, -1)).to_h
    end
  end
end
