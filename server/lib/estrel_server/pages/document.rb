# frozen_string_literal: true

require "erb"

module EstrelServer
  module Pages
    # A page as one HTML file that needs nothing beside it: words, pictures and tables as of a date.
    class Document
      TEMPLATE = ERB.new(File.read(File.join(__dir__, "document.html.erb")), trim_mode: "-")
      # Rows of a table that are written; those over time are the newest.
      MOST_ROWS = 40
      # What a file name may be long.
      MOST_LETTERS = 60
      private_constant :TEMPLATE

      # @param words [Object]
      # @return [String] safe to stand in HTML
      def self.escaped(words) = ERB::Util.html_escape(words)

      # @param page [Page]
      # @param as_of [Date]
      # @return [String] "every-monday-2026-10-31.html"
      def self.file_name(page, as_of)
        slug = page.name.downcase.gsub(/[^a-z0-9]+/, "-").gsub(/\A-|-\z/, "")[0, MOST_LETTERS]
        "#{slug.empty? ? "page" : slug}-#{as_of.iso8601}.html"
      end

      # @param page [Page]
      # @param as_of [Date]
      # @param shown [Array<Reading::Shown>]
      def initialize(page, as_of, shown)
        @page = page
        @as_of = as_of
        @shown = shown
      end

      # @return [String]
      def to_html = TEMPLATE.result(binding)

      private

      def h(words) = self.class.escaped(words)

      def date(day) = Estrel::English.date(day)

      def paragraphs(text) = text.to_s.split(/\n{2,}/)

      def picture(shown) = Plot.of(shown.table, shown.figure).to_svg

      # Whether each row is complete is said by how it looks.
      def columns(table) = table["columns"].each_with_index.reject { |column, _| column["key"] == "complete" }

      def rows(table)
        over_time = table["columns"].first["kind"] == "date"
        over_time ? table["rows"].last(MOST_ROWS).reverse : table["rows"].first(MOST_ROWS)
      end

      def said(value, column) = Estrel::Analyses::Table.said(value, column["kind"])

      def words?(column) = Estrel::Analyses::Table::WORDS.include?(column["kind"])
    end
  end
end
