# frozen_string_literal: true

module EstrelServer
  class People
    # Finds the texts that mention a person by one of their identifiers, however it is spelt there: addresses are
    # compared in the form in which {Estrel::Exports::Address} compares them, and other identifiers as a whole, where
    # a row names one. So customer `1` is not found in every row with a 1 in it.
    class Mentions
      ADDRESSES = %w[email phone].freeze
      # linear: neither side of the @ takes one
      EMAIL = /[^\s"'<>,;:=()\[\]{}@]+@[^\s"'<>,;:=()\[\]{}@]+/
      # linear: one run of characters
      PHONE = %r{\+?\d[\d ().\-/]{5,24}\d}
      # linear: one run of characters
      WORD = /[^\s"'<>,;=()\[\]{}]+/
      # Values from this length on are looked for in any place; shorter ones can be anything.
      TELLING = 8
      private_constant :ADDRESSES, :EMAIL, :PHONE, :WORD, :TELLING

      # @param identifiers [Array<String>] kind:value
      def initialize(identifiers)
        @wanted = identifiers.to_set { |identifier| normal(*Importing::Identifiers.split(identifier)) }
        @telling = @wanted.filter_map do |kind, value|
          value if value.length >= TELLING || ADDRESSES.include?(kind)
        end.to_set
      end

      # @param text [String] a row of a file or the contents of a message, as it came
      # @param mapping [Importing::Mapping] says where identifiers stand in it
      # @param header [String, nil] the first line of the file, where it is a table
      # @return [Boolean]
      def in?(text, mapping = Importing::Mapping.new, header: nil)
        named?(text) || identifiers(values(text, header), mapping).any? do |kind, value|
          @wanted.include?(normal(kind, value))
        end
      end

      # @param text [String, nil] as people write it
      # @return [Boolean]
      def named?(text)
        text = text.to_s
        words = text.scan(WORD)
        words.any? { |word| @telling.include?(word) || whole?(word) } ||
          text.scan(EMAIL).any? { |address| @wanted.include?(normal("email", address.delete_suffix("."))) } ||
          text.scan(PHONE).any? { |number| @wanted.include?(normal("phone", number)) }
      end

      private

      # "customer:1"
      def whole?(word)
        kind, value = Importing::Identifiers.split(word)
        !value.nil? && @wanted.include?(normal(kind, value))
      end

      def normal(kind, value) = [kind, Estrel::Exports::Address.normal(kind, value.to_s)]

      def values(text, header)
        json = JSON.parse(text, max_nesting: 20)
        json.is_a?(Hash) ? json : {}
      rescue JSON::ParserError
        header ? table_row(text, header) : {}
      end

      def table_row(text, header)
        separator = Importing::CsvRows.separator(header)
        names, fields = [header, text].map { |line| CSV.parse_line(line, col_sep: separator).to_a }
        names.map { |name| name.to_s.strip }.zip(fields).to_h
      rescue CSV::MalformedCSVError
        {}
      end

      # @return [Array<Array(String, String)>] kind and value
      def identifiers(values, mapping)
        subject = values[mapping.column("subject")]
        data = values["data"].is_a?(Hash) ? values["data"] : {}
        whole = [subject, data["same_as"]].grep(String).filter_map do |text|
          Importing::Identifiers.split(text).then { |pair| pair if pair.size == 2 }
        end
        columns = { **[*IdentifierKind::STANDARD, *mapping.custom_ids].to_h { |kind| [kind, kind] },
                    **mapping.identifier_columns }
        nested = values["identifiers"].is_a?(Hash) ? values["identifiers"].to_a : []
        [*whole, *nested, *columns.filter_map { |kind, column| [kind, values[column]] if values[column] }]
      end
    end
  end
end
