# frozen_string_literal: true

module Estrel
  module Analyses
    # Figures in rows and columns. Each column says what its figures are, so that they are shown, sorted and written to
    # files in one way everywhere; each row, and each cell where that differs, carries the definition of its people.
    class Table
      # What the figures of a column are: a count of people or of things, by how much a count changed, a share of 1, by
      # what share something grew, a difference of shares, a ratio, a mean, days, seconds, a date, a state, or words.
      KINDS = %w[text people count change share growth points ratio mean days duration date state flag].freeze

      # `unit` is the one of a measured property; `of` the key of the column whose share it is, for a count that is
      # shown with its share.
      Column = Struct.new(:key, :label, :kind, :unit, :of)
      # `values` in the order of the columns; `people` the definition of the row's, as JSON; `cells` those of single
      # columns by key.
      Row = Struct.new(:values, :people, :cells, keyword_init: true)

      # @param values [Array<Object>]
      # @param people [Hash, nil]
      # @param cells [Hash{String => Hash}]
      # @return [Row]
      def self.row(values, people: nil, cells: {}) = Row.new(values: values, people: people, cells: cells).freeze

      # @return [String]
      attr_reader :key, :title
      # @return [Array<Column>]
      attr_reader :columns
      # @return [Array<Row>]
      attr_reader :rows

      # @param key [String] unique within the answer
      # @param title [String]
      # @param columns [Array<Array>] of each column `key`, `label`, `kind` of {KINDS}, the unit and what it is a share
      #   `of`, where it has these
      # @param rows [Array<Row>]
      def initialize(key, title, columns, rows)
        @key = key
        @title = title
        @columns = columns.map { |column| Column.new(*column).freeze }.freeze
        unknown = @columns.map(&:kind) - KINDS
        raise ArgumentError, "columns of kind #{unknown.join(", ")}" if unknown.any?

        @rows = rows.freeze
        freeze
      end

      # @return [Hash{Symbol => Object}] plain JSON
      def to_h = { key: key, title: title, columns: columns.map(&:to_h), rows: rows.map(&:to_h) }
    end
  end
end
