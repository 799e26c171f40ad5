# frozen_string_literal: true

module EstrelServer
  module Importing
    # How the columns of a file become the parts of an event or a profile. Frozen; docs/import-formats.md describes it.
    #
    # `columns` maps our names (id, source, type, subject, time, received_at, or `identifier.KIND`) to the file's;
    # `constants` gives a fixed source or type; `rename` maps columns to property or attribute names; `ignore` lists
    # columns to leave out; `types` names the type of a column. `decimal_comma` reads numbers such as 1.234,56; `flat`
    # reads JSON whose names are not ours, nested ones as "outer.inner"; `always` takes attributes without a time for
    # having held all along. `encoding` is that of a text file, and `sheet` the name of a spreadsheet's sheet.
    class Mapping
      KEYS = %w[columns constants rename ignore types time_format time_zone custom_ids decimal_comma flat
                always encoding sheet].freeze
      # What says in which form the file itself is, not what its columns hold.
      FORM = %w[encoding sheet].freeze
      OURS = %w[id source type subject time received_at].freeze

      # Raised for a mapping that makes no sense.
      class Invalid < Error; end

      # @return [String, nil] one of {Instants::FORMATS}; nil to detect
      attr_reader :time_format
      # @return [String, nil] zone of times that name none
      attr_reader :time_zone
      # @return [Array<String>] names of custom IDs to make known
      attr_reader :custom_ids
      # @return [Hash{String => String}] fixed source or type
      attr_reader :constants
      # @return [Hash{String => String}] column to type
      attr_reader :types
      # @return [String, nil] one of {TextEncoding::NAMES}; nil to detect
      attr_reader :encoding
      # @return [String, nil] of a spreadsheet; nil for the first sheet
      attr_reader :sheet

      # @param json [Hash]
      # @raise [Invalid]
      def initialize(json = {})
        json = json.to_h.transform_keys(&:to_s)
        @columns = part(json, "columns")
        @constants = part(json, "constants")
        @rename = part(json, "rename")
        @types = part(json, "types")
        @ignore = Array(json["ignore"]).map(&:to_s).freeze
        @custom_ids = Array(json["custom_ids"]).map(&:to_s).freeze
        @time_format = json["time_format"].to_s.empty? ? nil : json["time_format"]
        @time_zone = json["time_zone"].to_s.empty? ? nil : json["time_zone"]
        @encoding, @sheet = FORM.map { |name| json[name].to_s.empty? ? nil : json[name].to_s }
        @flags = %w[decimal_comma flat always].to_h { |name| [name, json[name] == true] }.freeze
        validate(json)
        freeze
      end

      # @param ours [String] one of {OURS} or "identifier.KIND"
      # @return [String] the column that holds it
      def column(ours) = @columns.fetch(ours, ours)

      # @return [Hash{String => String}] identifier kind to column, where the mapping names one
      def identifier_columns
        named = @columns.select { |ours, _| ours.start_with?("identifier.") }
        named.transform_keys { |ours| ours.delete_prefix("identifier.") }
      end

      # @param column [String]
      # @return [String, nil] the property or attribute it becomes; nil to leave it out
      def field(column) = @ignore.include?(column) ? nil : @rename.fetch(column, column)

      # @return [Boolean] whether numbers are written with a comma
      def decimal_comma? = @flags["decimal_comma"]

      # @return [Boolean] whether JSON is read column by column, like a table
      def flat? = @flags["flat"]

      # @return [Boolean] whether attributes without a time have always held
      def always? = @flags["always"]

      # @return [Boolean] whether the file's own names are used throughout and nothing is left to the mapping
      def plain?
        [@columns, @constants, @rename, @types, @ignore].all?(&:empty?) && time_zone.nil? && @flags.values.none? &&
          [nil, "iso8601"].include?(time_format)
      end

      # @return [Hash] plain JSON
      def to_h
        { "columns" => @columns, "constants" => @constants, "rename" => @rename, "ignore" => @ignore,
          "types" => @types, "time_format" => @time_format, "time_zone" => @time_zone, "custom_ids" => @custom_ids,
          "encoding" => @encoding, "sheet" => @sheet, **@flags }
      end

      private

      def part(json, key)
        value = json[key] || {}
        raise Invalid, "\"#{key}\" of the mapping must hold names with their columns" unless value.is_a?(Hash)

        value.to_h { |name, column| [name.to_s, column.to_s] }.freeze
      end

      def validate(json)
        unknown("setting", json.keys, KEYS)
        unknown("column", @columns.keys.reject { |name| name.start_with?("identifier.") }, OURS)
        unknown("constant", @constants.keys, %w[source type])
        unknown("type", @types.values, Estrel::Catalogue::TYPES)
        unknown("encoding", [@encoding].compact, TextEncoding::NAMES.keys)
        unknown("time format", [@time_format].compact, Instants::FORMATS)
        Estrel::Calendar.new(@time_zone) if @time_zone
      rescue Estrel::Calendar::UnknownTimeZone => e
        raise Invalid, e.message
      end

      def unknown(what, names, known)
        strange = names - known
        return if strange.empty?

        raise Invalid, "a mapping has no #{what} \"#{strange.first}\"; there are #{known.join(", ")}"
      end
    end
  end
end
