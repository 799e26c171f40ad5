# frozen_string_literal: true

module Estrel
  module Analyses
    # What comes of a question: a finding in words, what to bear in mind, tables whose rows name their people, and what
    # the analysis's picture is drawn from. Frozen.
    class Answer
      # @return [String] one or two sentences
      attr_reader :finding
      # @return [Array<String>] whole sentences
      attr_reader :caveats
      # @return [Array<Table>]
      attr_reader :tables
      # @return [Hash{Symbol => Object}] plain JSON, as the analysis's schema describes it
      attr_reader :picture

      # @param finding [String]
      # @param picture [Hash]
      # @param tables [Array<Table>]
      # @param caveats [Array<String>]
      # @param about [Hash{Symbol => Object}]
      def initialize(finding:, picture:, tables: [], caveats: [], about: {})
        @finding = finding
        @picture = picture
        @tables = tables.freeze
        @caveats = caveats.freeze
        @about = about.freeze
        freeze
      end

      # What a plain picture of the tables shows, where nobody chooses: the first table over time, or else the first
      # one, and the first figures in it.
      #
      # @return [Hash{Symbol => String}, nil] keys of the `table` and the `figure`, see {Table#figures}; nil where there
      #   are no figures
      def drawn
        told = tables.select { |table| table.rows.any? && table.figures.any? }
        table = told.find { |one| one.columns.first.kind == "date" && one.rows.size > 1 } || told.first or return
        { table: table.key, figure: table.figures.first[:key] }
      end

      # @param analysis [Analysis]
      # @return [Answer] that says what it answers
      def about(analysis)
        told = { analysis: analysis.class.address, as_of: analysis.workspace.as_of,
                 received_by: analysis.question["received_by"], ended: analysis.workspace.ended? }
        self.class.new(finding: finding, picture: picture, tables: tables, about: told,
                       caveats: [*analysis.range_caveats, *caveats])
      end

      # @return [Hash{Symbol => Object}] plain JSON
      def to_h
        { **@about, finding: finding, caveats: caveats, tables: tables.map(&:to_h), drawn: drawn, picture: picture }
      end
    end
  end
end
