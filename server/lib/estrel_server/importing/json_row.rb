# frozen_string_literal: true

module EstrelServer
  module Importing
    # One row of a JSON Lines file, taken apart only when somebody asks for its values.
    class JsonRow
      # @return [Integer]
      attr_reader :number
      # @return [String]
      attr_reader :original
      # @return [String, nil] why the row cannot even be read
      attr_reader :fault

      def initialize(number, original, fault)
        @number = number
        @original = original
        @fault = fault
      end

      # @return [Hash]
      # @raise [EventReader::Unusable]
      def values = @values ||= parse

      private

      def parse
        values = EventJson.parse(@original)
        raise EventReader::Unusable, "the row is not a JSON object" unless values.is_a?(Hash)

        values
      rescue JSON::NestingError
        raise EventReader::Unusable, "the row is nested more than #{EventJson::MAX_NESTING} levels deep"
      rescue JSON::ParserError => e
        raise EventReader::Unusable, "the row is not valid JSON: #{e.message.scrub.lines.first.to_s.strip[0, 200]}"
      end
    end
  end
end
