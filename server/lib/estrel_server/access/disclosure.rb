# frozen_string_literal: true

module EstrelServer
  module Access
    # What of personal data is shown to whoever asks: all of it to analysts, none of it to viewers. What is personal is
    # said by the catalogue's marks, see {Access::PersonalData}; identifiers always are.
    #
    # What viewers ask is put to a ledger whose catalogue lacks the personal properties and attributes
    # ({Estrel::Ledger::WithoutPersonal}), so no question can name one. Here stands what is read from the store instead.
    module Disclosure
      MASK = Access::PersonalData::MASK
      HIDDEN = "It asks about personal data, which viewers do not see."

      module_function

      # @return [Boolean]
      def all? = Current.sees_personal?

      # @param generation [Estrel::Ledger::Generation]
      # @return [Estrel::Ledger::Generation, Estrel::Ledger::WithoutPersonal] that whoever asks may put questions to
      def ledger(generation)
        all? ? generation : generation.without_personal(Access::PersonalData.properties, Access::PersonalData.attributes)
      end

      # @param value [String, nil] an identifier, an address, or a free text about a person
      # @return [String, nil]
      def value(value) = all? || value.nil? ? value : MASK

      # @param json [Object] in which personal data can stand anywhere
      # @return [Object] of the same shape
      def values(json)
        return json if all?

        case json
        when Hash then json.transform_values { |value| values(value) }
        when Array then json.map { |value| values(value) }
        else json.nil? ? nil : MASK
        end
      end

      # @param catalogue [Estrel::Catalogue] of the ledger that whoever asks may put questions to
      # @param type [String] an event type, as stored
      # @param properties [Hash{String => Object}]
      # @return [Hash{String => Object}]
      def properties(catalogue, type, properties)
        return properties if all?

        known = catalogue.event_type(type)&.properties || {}
        properties.to_h { |name, value| [name, known.key?(name) && !personal?(value) ? value : MASK] }
      end

      # @param catalogue [Estrel::Catalogue]
      # @param name [String] of an attribute
      # @return [Boolean] whether its values are shown
      def attribute?(catalogue, name) = all? || catalogue.attributes.key?(name)

      # @param version [AudienceVersion]
      # @return [Boolean] whether its definition names nothing that whoever asks does not see
      def definition?(version)
        all? || !(strings(version.definition).intersect?(names) || listed?(version.definition))
      end

      # @param version [AudienceVersion]
      # @return [String]
      def sentence(version) = definition?(version) ? version.said : HIDDEN

      # @param rules [Hash] of a rule set
      # @return [Hash] without the values that personal properties are compared with
      def rules(rules)
        return rules if all?

        activity = rules["activity"].map do |sign|
          sign.is_a?(Hash) && strings(sign["where"]).intersect?(names) ? sign.except("where") : sign
        end
        rules.merge("activity" => activity)
      end

      # What came in since the marks were made.
      def personal?(value) = value.is_a?(String) && Access::PersonalData.looks?(value)
      private_class_method :personal?

      def names = [*Access::PersonalData.properties.values.flatten, *Access::PersonalData.attributes].uniq
      private_class_method :names

      # Whether a list of identifiers stands in it.
      def listed?(json)
        case json
        when Hash then json.key?("listed") || json.values.any? { |value| listed?(value) }
        when Array then json.any? { |value| listed?(value) }
        else false
        end
      end
      private_class_method :listed?

      def strings(json)
        case json
        when Hash then json.values.flat_map { |value| strings(value) }
        when Array then json.flat_map { |value| strings(value) }
        else [json]
        end
      end
      private_class_method :strings
    end
  end
end
