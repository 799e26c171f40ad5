# frozen_string_literal: true

module EstrelServer
  module Importing
    # What the columns of a file mean, guessed from their names and first values: who, what, when, and the rest.
    class ColumnGuess
      # Names, in several languages, by what they mean; the first that fits counts. linear: alternatives of plain words.
      NAMES = {
        "received_at" => /\b(received|ingested|loaded)\b/,
        "time" => /\b(time|timestamp|ts|date|datum|zeit|zeitpunkt|fecha|hora|heure|when|at|created|occurred)\b/,
        "type" => /\b(event|event name|event type|type|evt|action|activity|ereignis|aktion|vorgang|evento|typ|what)\b/,
        "identifier.email" => /\b(e ?mail|mail)\b/,
        "identifier.phone" => /\b(phone|mobile|telefon|handy|telephone|msisdn)\b/,
        "identifier.visitor" => /\b(visitor|device|cookie|anonymous)( id| key)?\z/,
        "identifier.customer" => /\b(customer|client|user|member|account|kunde|kundennummer|kunden|kundennr|cliente|
                                      usuario|subject|person|buyer|subscriber|login|who)\b/x,
        "id" => /\A(id|event id|uuid|row id|message id)\z/,
        "source" => /\A(source|system)\z/
      }.freeze
      # When the values of a profile began to hold; other dates of a person are attributes.
      HOLDING = /\b(updated|changed|modified|valid|as of|since|time|timestamp|ts|stand)\b/
      EVENT_ONLY = %w[type id source received_at].freeze
      IDENTIFIERS = %w[identifier.customer identifier.visitor identifier.email identifier.phone].freeze
      ADDRESS = /\A[^@\s]{1,200}@[^@\s]{1,200}\z/
      private_constant :ADDRESS, :HOLDING

      # @param rows [Array<Hash>] the first rows; values are texts, or whatever JSON holds
      # @param file_name [String] gives the event type where no column does
      # @param zone [String] of times that name none
      def initialize(rows, file_name, zone)
        @rows = rows
        @file_name = file_name
        @zone = zone
        @columns = rows.first&.keys || []
      end

      # @return [String] "events" or "profiles"
      def kind = @kind ||= meant["time"] && (meant["type"] || repeated?) ? "events" : "profiles"

      # @param kind [String]
      # @param flat [Boolean] whether the rows are JSON
      # @return [Hash] of a {Mapping}
      def mapping(kind: self.kind, flat: false)
        ours = kind == "events" ? meant.except(*surplus) : meant.except(*EVENT_ONLY, *("time" unless holding?))
        constants = kind == "events" && !meant["type"] ? { "type" => type_of_file } : {}
        { "columns" => ours, "constants" => constants, "flat" => flat, "decimal_comma" => decimal_comma?,
          "time_format" => time_format, "time_zone" => zoned? ? nil : @zone,
          "always" => kind == "profiles" && !ours.key?("time") }.compact
      end

      # @param column [String, nil]
      # @return [Array<String>] its first values that are there
      def values(column)
        @rows.filter_map { |row| row[column]&.to_s }.reject(&:empty?)
      end

      private

      # Our names with the columns that hold them.
      def meant
        @meant ||= begin
          found = NAMES.each_with_object({}) do |(ours, pattern), taken|
            column = (@columns - taken.values).find { |name| words(name).match?(pattern) && fits?(ours, name) }
            taken[ours] = column if column
          end
          found["identifier.email"] ||= (@columns - found.values).find { |column| addresses?(column) }
          found["identifier.customer"] ||= last_resort(found)
          found.compact
        end
      end

      def words(name) = Estrel::English.humanised(name).downcase

      def fits?(ours, column)
        texts = values(column)
        case ours
        when "time", "received_at" then time?(texts)
        when "type" then texts.uniq.size <= [texts.size / 2, 1].max || texts.size < 5
        when "identifier.email" then texts.empty? || addresses?(column)
        else !ours.start_with?("identifier.") || !time?(texts)
        end
      end

      def time?(texts)
        return false if texts.empty?

        Instants.detect(texts)
        true
      rescue Instants::Undetectable
        texts.count { |text| text.match?(Instants::SLASHED) } >= texts.size * 0.9
      end

      def addresses?(column)
        texts = values(column)
        texts.any? && texts.all? { |text| text.match?(ADDRESS) }
      end

      # Whoever is named by nothing else is named by a column that ends in an id.
      def last_resort(found)
        return if found.keys.intersect?(IDENTIFIERS)

        (@columns - found.values).find { |name| words(name).match?(/\b(id|nr|no|number|key|nummer)\z/) }
      end

      # An event has one subject, and the visitor beside it; other identifiers are properties of it.
      def surplus
        first = IDENTIFIERS.find { |ours| meant.key?(ours) }
        IDENTIFIERS - [first, "identifier.visitor"]
      end

      def holding? = words(meant["time"].to_s).match?(HOLDING)

      def repeated?
        who = values(meant.values_at(*IDENTIFIERS).compact.first)
        who.size > 1 && who.uniq.size < who.size * 0.95
      end

      def type_of_file = words(File.basename(@file_name, ".*").delete_suffix(".csv"))[0, 100].tr(" ", "_")

      def time_format
        texts = values(meant["time"])
        texts.empty? ? nil : Instants.detect(texts)
      rescue Instants::Undetectable
        nil
      end

      def zoned? = values(meant["time"]).all? { |text| Instants.zoned?(text) }

      def decimal_comma?
        texts = (@columns - meant.values).flat_map { |column| values(column) }
        numbers = texts.map { |text| text.gsub(/\A[^\d-]{0,7}|[^\d]{0,12}\z/, "") }
        numbers.any? { |text| text.match?(/\A-?\d{1,15}(?:\.\d{3}){0,4},\d{1,4}\z/) }
      end
    end
  end
end
