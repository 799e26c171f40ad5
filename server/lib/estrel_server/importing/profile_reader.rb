# frozen_string_literal: true

module EstrelServer
  module Importing
    # Turns the values of a row into the identifiers and attributes of one profile, or says why it cannot.
    class ProfileReader
      # One profile's facts ready to be stored: identifiers as `kind:value`, the first being the one it is found by;
      # attributes as name to value; their times as the database takes them, the one of receipt only where it is known.
      Facts = Struct.new(:row, :identifiers, :attributes, :occurred_at, :received_at)

      # @param mapping [Mapping]
      # @param instants [Instants]
      # @param identifiers [Identifiers]
      # @param observed_at [String] the time of attributes whose row names none
      # @param column_types [Hash{String => String}] of CSV columns; empty for JSON
      def initialize(mapping:, instants:, identifiers:, observed_at:, column_types: {})
        @mapping = mapping
        @instants = instants
        @identifiers = identifiers
        @observed_at = observed_at
        @column_types = column_types
        @subject, @time = %w[subject time].map { |ours| mapping.column(ours) }
        kinds = [*IdentifierKind::STANDARD, *mapping.custom_ids]
        @identifier_columns = kinds.to_h { |kind| [kind, kind] }.merge(mapping.identifier_columns)
      end

      # @param row [Row]
      # @return [Facts]
      # @raise [EventReader::Unusable, Instants::Unusable, Identifiers::Unusable]
      def read(row)
        raise EventReader::Unusable, row.fault if row.fault

        identifiers = identifiers(row.values)
        raise EventReader::Unusable, "the row has no identifier; add at least one" if identifiers.empty?

        time = row.values[@time]
        Facts.new(row, identifiers, EventJson.exact(attributes(row.values)),
                  time.nil? || time == "" ? @observed_at : @instants.read(time))
      end

      private

      def identifiers(values)
        nested = values["identifiers"].is_a?(Hash) ? values["identifiers"] : {}
        found = [values[@subject]].compact.reject { |text| text == "" }.map { |text| @identifiers.read(text) }
        @identifier_columns.each do |kind, column|
          value = values[column]
          found << @identifiers.check(kind, value) unless value.nil? || value == ""
        end
        nested.each { |kind, value| found << @identifiers.check(kind, value) }
        found.uniq
      end

      def attributes(values)
        return json_attributes(values) if @column_types.empty? && !@mapping.flat?

        taken = [@subject, @time, *@identifier_columns.values]
        values.each_with_object({}) do |(column, text), found|
          next if taken.include?(column) || (name = @mapping.field(column)).nil?

          value = text
          value = Values.from_text(text, @column_types[column], comma: @mapping.decimal_comma?) if text.is_a?(String)
          found[name] = value unless value.nil?
        end
      end

      def json_attributes(values)
        attributes = values["attributes"] || {}
        raise EventReader::Unusable, "\"attributes\" must hold names with their values" unless attributes.is_a?(Hash)

        attributes.each_key { |name| Names.checked(name, "name of an attribute") }
      end
    end
  end
end
