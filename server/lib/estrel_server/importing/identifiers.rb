# frozen_string_literal: true

module EstrelServer
  module Importing
    # Reads `kind:value` identifiers and refuses those that cannot be one. An identifier is handled as that one text.
    class Identifiers
      MAX_LENGTH = 255

      # An identifier that cannot be used; the message says why.
      class Unusable < Error; end

      # @param kinds [Array<String>] the kinds there are
      def initialize(kinds)
        @kinds = kinds
      end

      # @param identifier [String] "customer:1042"
      # @return [Array(String, String)] kind and value
      def self.split(identifier) = identifier.split(":", 2)

      # @param text [String] "customer:1042"
      # @return [String] the same
      # @raise [Unusable]
      def read(text)
        raise Unusable, "the person's identifier is missing" if text.nil? || text.to_s.empty?

        kind, value = self.class.split(text.to_s)
        if value.nil?
          raise Unusable,
                "#{shown(text)} has no identifier type; write it like “customer:1042”"
        end

        check(kind, value)
      end

      # @param kind [String]
      # @param value [String]
      # @return [String] kind:value
      # @raise [Unusable]
      def check(kind, value)
        value = value.to_s
        unless @kinds.include?(kind)
          raise Unusable, "there is no identifier kind #{shown(kind)}#{Estrel::Catalogue.suggestion(kind, @kinds)}; " \
                          "declare it as a custom ID first"
        end
        raise Unusable, "the #{kind} identifier is empty" if value.strip.empty?
        raise Unusable, "the #{kind} identifier is longer than #{MAX_LENGTH} characters" if value.length > MAX_LENGTH
        raise Unusable, "the #{kind} identifier contains control characters" if value.match?(/[[:cntrl:]]/)

        "#{kind}:#{value}"
      end

      private

      def shown(text) = text.to_s[0, 60].inspect
    end
  end
end
