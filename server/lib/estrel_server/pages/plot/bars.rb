# frozen_string_literal: true

module EstrelServer
  module Pages
    class Plot
      # A bar for each row, or one for each group beside each other.
      class Bars < Plot
        # Rows that are drawn, at most.
        MOST_ROWS = 14
        TOP = 8
        BAR = 14
        GAP = 10
        LEFT = 230
        RIGHT = 640
        KEY = 24
        LONG = 34
        WORDS = %w[text state date days].freeze
        private_constant :TOP, :BAR, :GAP, :LEFT, :RIGHT, :KEY, :LONG, :WORDS

        # @return [String]
        def to_svg
          shown = rows.first(MOST_ROWS)
          bottom = TOP + (shown.size * tall)
          parts = shown.each_with_index.map { |row, place| bars_of(row, TOP + (place * tall)) }
          svg(bottom + (series.one? ? 0 : KEY), [*parts, *key(bottom)])
        end

        private

        # What a row takes.
        def tall = (BAR * series.size) + GAP

        def bars_of(row, top)
          name = text(LEFT - 10, top + BAR - 4, shortened(name_of(row), LONG), anchor: "end", ink: "#1f1d1a")
          bars = series.each_with_index.map { |one, index| bar(row["values"][one.at], one.ink, top + (index * BAR)) }
          [name, *bars].join
        end

        def bar(value, ink, top)
          width = (RIGHT - LEFT) * [value.to_f, 0].max / most
          %(<rect x="#{LEFT}" y="#{top}" width="#{width.round(1)}" height="#{BAR - 2}" fill="#{ink}"/>) +
            text(LEFT + width + 6, top + BAR - 4, said(value))
        end

        def name_of(row)
          words = table["columns"].zip(row["values"]).take_while { |column, _| WORDS.include?(column["kind"]) }
          words.map { |column, value| Estrel::Analyses::Table.said(value, column["kind"]) }.join(", ")
        end

        def key(bottom)
          return [] if series.one?

          wide = (WIDTH - LEFT) / series.size
          series.each_with_index.map do |one, index|
            text(LEFT + (index * wide), bottom + 14, shortened(one.name, [wide / 7, LETTERS].min), ink: one.ink)
          end
        end
      end
    end
  end
end
