# frozen_string_literal: true

module EstrelServer
  module Pages
    # A plain picture of a figure of a table, as SVG for files that are read without Estrel: lines over dates or days,
    # bars for anything else. A subclass draws.
    class Plot
      WIDTH = 760
      # Lines, or bars beside each other, at most.
      MOST = 8
      INKS = %w[#1d5f6b #a8581c #6a4c93 #4d6b2f #9b2d4f #3f5f9b #7a6a1f #555555].freeze
      OVER_TIME = %w[date days].freeze
      # Letters of a name beside a line.
      LETTERS = 22

      # A column that is drawn: what it is called, its place in the rows, and its ink.
      Series = Struct.new(:name, :at, :ink)

      # @param table [Hash] see {Estrel::Analyses::Table#to_h}, as plain JSON
      # @param figure [String] key of one of its figures
      # @return [Plot]
      def self.of(table, figure)
        over_time = OVER_TIME.include?(table["columns"].first["kind"]) && table["rows"].size > 1
        (over_time ? Lines : Bars).new(table, figure)
      end

      # @param table [Hash]
      # @param figure [String] the first one is drawn where there is none of this key
      def initialize(table, figure)
        @table = table
        @rows = table["rows"]
        @figure = table["figures"].find { |one| one["key"] == figure } || table["figures"].first
        keys = table["columns"].map { |column| column["key"] }
        @series = @figure["lines"].first(MOST).zip(INKS).map do |line, ink|
          Series.new(line["name"], keys.index(line["column"]), ink)
        end
        @complete = keys.index("complete")
      end

      private

      attr_reader :table, :rows, :series

      def said(value) = Estrel::Analyses::Table.said(value, table["columns"][series.first.at]["kind"])

      def numbers = @numbers ||= series.flat_map { |one| rows.filter_map { |row| row["values"][one.at] } }

      def most = numbers.max.to_f.positive? ? numbers.max.to_f : 1.0

      def least = [numbers.min.to_f, 0.0].min

      def open?(row) = @complete && row["values"][@complete] == false

      def svg(height, parts)
        label = Document.escaped("#{@figure["label"]}: #{table["title"]}")
        size = %(viewBox="0 0 #{WIDTH} #{height}" width="#{WIDTH}" height="#{height}")
        %(<svg #{size} role="img" aria-label="#{label}">#{parts.join}</svg>)
      end

      def text(x, y, words, anchor: "start", ink: "#4b4741")
        place = %(x="#{x.round(1)}" y="#{y.round(1)}" text-anchor="#{anchor}" fill="#{ink}")
        "<text #{place}>#{Document.escaped(words)}</text>"
      end

      def shortened(words, letters = LETTERS) = words.length > letters ? "#{words[0, letters - 1]}…" : words
    end
  end
end
