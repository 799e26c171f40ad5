# frozen_string_literal: true

module EstrelServer
  module Access
    # Which properties and attributes are personal: what their names and contents suggest, until somebody decides, and
    # what is decided. Identifiers always are.
    module PersonalData
      MASK = "•••"
      # Words in a name that suggest a person or a way to reach one.
      WORDS = %w[firstname lastname surname fullname forename mail email phone mobile tel telephone fax address street
                 postcode zip iban bic passport ssn birth birthday birthdate dob gender contact recipient
                 ip latitude longitude lat lon lng signature note comment].freeze
      # Whose name it is, where it is a person's.
      NAMED = %w[first last full given family maiden user customer contact person rider display middle].freeze
      # Values that look like an e-mail address, a phone number, or a bank account's number: short and bounded, so that
      # one look costs the same whatever is looked at. Understood by Ruby and by Polars alike.
      CONTENT = '[^\s@]@[^\s@]|\+\d[\d ()/-]{6,20}\d|\b[A-Z]{2}\d{2}[ ]?[A-Z0-9]{4}[ ]?\d{4}'
      LOOKS = Regexp.new(CONTENT) # linear: every repetition is bounded
      SHOWN = 4_000
      private_constant :SHOWN

      module_function

      # @param name [String] of a property or attribute
      # @return [Boolean] whether it suggests something personal
      def name?(name)
        words = name.gsub(/(?<=[a-z])(?=[A-Z])/, "_").downcase.split(/[^[:alpha:]]/)
        words.intersect?(WORDS) || (words.include?("name") && (words.one? || words.intersect?(NAMED)))
      end

      # @param text [String]
      # @return [Boolean] whether it looks like an address or an account's number
      def looks?(text) = LOOKS.match?(text[0, SHOWN])

      # @return [Hash{String => Array<String>}] event type to its personal properties, by the types as they are stored
      def properties
        EventProperty.personal.joins(:event_type).pluck("event_types.name",
                                                        :name).group_by(&:shift).transform_values(&:flatten)
      end

      # @return [Array<String>] the personal attributes
      def attributes = AttributeDefinition.personal.pluck(:name)
    end
  end
end
