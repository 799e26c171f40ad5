# frozen_string_literal: true

module EstrelServer
  module Access
    # Takes identifiers and addresses out of what a viewer is answered: wherever they stand under a name of their own,
    # and whatever looks like an e-mail address or a phone number in any text.
    module Masking
      MASK = "•••"
      # Names under which an identifier stands.
      NAMES = %w[subject identifier address same_as one other visitor].freeze
      EMAIL = /[^\s@<>"',;:]+@[^\s@<>"',;:]+\.[^\s@<>"',;:]+/
      PHONE = /(?<![\w.-])\+\d[\d ]{6,}\d(?![\w.-])/

      module_function

      # @param json [Object] parsed
      # @return [Object]
      def masked(json)
        case json
        when Hash then json.to_h { |name, value| [name, named(name, value)] }
        when Array then json.map { |value| masked(value) }
        when String then json.gsub(EMAIL, MASK).gsub(PHONE, MASK)
        else json
        end
      end

      def named(name, value)
        return value.map { |row| row.is_a?(Hash) ? row.merge("value" => MASK) : MASK } if list?(name, value)
        return MASK if NAMES.include?(name) && value.is_a?(String)

        masked(value)
      end
      private_class_method :named

      def list?(name, value) = name == "identifiers" && value.is_a?(Array)
      private_class_method :list?
    end
  end
end
