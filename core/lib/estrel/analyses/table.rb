# frozen_string_literal: true

module Estrel
  module Analyses
    # Figures in rows and columns. Each column says what its figures are, so that they are shown, sorted and written to
    # files in one way everywhere; each row, and each cell where that differs, carries the definition of its people.
    class Table
      # What the figures of a column are: a count of people or of things, by how much a count changed, a share of 1, by
      # what share something grew, a difference of shares, a ratio, a mean, days, seconds, a date, a state, or words.
      KINDS = %w[text people count change share growth points ratio mean days duration date state flag].freeze

      # Kinds that are no numbers to draw.
      WORDS = %w[text date state flag].freeze
      NUMBERED = /_\d{1,3}\z/
      private_constant :NUMBERED

      # `unit` is the one of a measured property; `of` the key of the column whose share it is, for a count that is
      # shown with its share; `line` whose figures they are, where the label does not say that alone.
      Column = Struct.new(:key, :label, :kind, :unit, :of, :line)
      # `values` in the order of the columns; `people` the definition of the row's, as JSON; `cells` those of single
      # columns by key.
      Row = Struct.new(:values, :people, :cells, keyword_init: true)

      # @param values [Array<Object>]
      # @param people [Hash, nil]
      # @param cells [Hash{String => Hash}]
      # @return [Row]
      def self.row(values, people: nil, cells: {}) = Row.new(values: values, people: people, cells: cells).freeze

      # @param value [Object, nil] of a table, as plain JSON has it
      # @param kind [String] of {KINDS}
      # @return [String]
      def self.said(value, kind)
        case value
        when nil then "–"
        when true, false then value ? "yes" : "no"
        when String then kind == "date" ? English.date(Date.iso8601(value)) : said_text(value, kind)
        else said_number(value, kind)
        end
      end

      def self.said_text(text, kind) = kind == "state" ? English.state(text) : text
      private_class_method :said_text

      def self.said_number(value, kind)
        case kind
        when "share" then English.percent(value)
        when "growth" then English.growth(value)
        when "change" then English.change(value.round)
        when "days" then English.counted(value, "day")
        when "duration" then English.duration(value)
        when "points" then "#{English.points(value)} pp"
        when "ratio" then English.ratio(value)
        when "mean" then English.rate(value)
        else English.number(value.round)
        end
      end
      private_class_method :said_number

      # @return [String]
      attr_reader :key, :title
      # @return [Array<Column>]
      attr_reader :columns
      # @return [Array<Row>]
      attr_reader :rows

      # @param key [String] unique within the answer
      # @param title [String]
      # @param columns [Array<Array>] of each column `key`, `label`, `kind` of {KINDS}, the unit, what it is a share
      #   `of` and its `line`, where it has these
      # @param rows [Array<Row>]
      def initialize(key, title, columns, rows)
        @key = key
        @title = title
        @columns = columns.map { |column| Column.new(*column).freeze }.freeze
        unknown = @columns.map(&:kind) - KINDS
        raise ArgumentError, "columns of kind #{unknown.join(", ")}" if unknown.any?

        @rows = rows.freeze
        figures
        freeze
      end

      # What can be drawn of it: columns of numbers, those of several groups or events together, whose keys differ in a
      # number at the end alone. What is told by these has one name for each.
      #
      # @return [Array<Hash{Symbol => Object}>] `key`, what the keys have in common, `label`, and `lines`, of each
      #   `column` and `name`
      def figures
        @figures ||= numbers.group_by { |column| column.key.sub(NUMBERED, "") }.map do |key, found|
          labels = found.map(&:label).uniq
          { key: key, label: labels.one? ? labels.first : key.tr("_", " ").capitalize,
            lines: found.map { |column| { column: column.key, name: line_of(column, labels.one? && found.size > 1) } } }
        end.freeze
      end

      # @return [Hash{Symbol => Object}] plain JSON
      def to_h
        { key: key, title: title, columns: columns.map(&:to_h), rows: rows.map(&:to_h), figures: figures }
      end

      private

      def numbers = columns.drop(1).reject { |column| WORDS.include?(column.kind) }

      # Where all are labelled alike, what the first column of the same group or event is called.
      def line_of(column, alike)
        return column.line if column.line
        return column.label unless alike

        number = column.key[NUMBERED]
        columns.find { |other| other.key.end_with?(number.to_s) }.label
      end
    end
  end
end
