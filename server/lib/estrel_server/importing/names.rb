# frozen_string_literal: true

module EstrelServer
  module Importing
    # What can be an id, a source, or the name of a type, a property or an attribute.
    module Names
      MAX = 255

      module_function

      # @param text [Object]
      # @param what [String] it is, for the message
      # @return [String]
      # @raise [EventReader::Unusable]
      def checked(text, what)
        raise EventReader::Unusable, "the #{what} is missing" if text.nil? || text.to_s.strip.empty?

        text = text.to_s
        raise EventReader::Unusable, "the #{what} is longer than #{MAX} characters" if text.length > MAX
        raise EventReader::Unusable, "the #{what} contains control characters" if text.match?(/[[:cntrl:]]/)

        text
      end
    end
  end
end
