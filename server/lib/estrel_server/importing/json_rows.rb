# frozen_string_literal: true

module EstrelServer
  module Importing
    # The rows of a JSON Lines file as hashes.
    class JsonRows
      # @param input [InputFile]
      def initialize(input)
        @input = input
      end

      # @yieldparam row [Row] values is nil where the row is unusable
      # @return [void]
      def each
        number = 0
        @input.each_line do |line, too_long|
          number += 1
          next if line.empty?

          yield JsonRow.new(number, line, fault(line, too_long))
        end
        raise InputFile::Unreadable, "the file is empty" if number.zero?
      end

      private

      def fault(line, too_long)
        return "the row is longer than #{InputFile::MAX_LINE} bytes" if too_long

        "the row is not valid UTF-8" if line.encoding == Encoding::BINARY
      end
    end
  end
end
