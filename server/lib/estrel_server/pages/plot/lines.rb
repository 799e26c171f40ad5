# frozen_string_literal: true

module EstrelServer
  module Pages
    class Plot
      # Lines over dates or days, named at their ends; what is not complete is dotted.
      class Lines < Plot
        HEIGHT = 250
        LEFT = 72
        RIGHT = 600
        TOP = 12
        BOTTOM = 222
        LEVELS = 3
        # The least distance of two names.
        APART = 15
        # Dates that are written, about.
        DATES = 6
        private_constant :HEIGHT, :LEFT, :RIGHT, :TOP, :BOTTOM, :LEVELS, :APART, :DATES

        # @return [String]
        def to_svg = svg(HEIGHT, [*levels, *dates, *series.map { |one| line(one) }, *names])

        private

        def x(place) = LEFT + ((RIGHT - LEFT) * place / (rows.size - 1.0))

        def y(value) = BOTTOM - ((BOTTOM - TOP) * (value - least) / (most - least))

        def levels
          step = step_of(most - least)
          ((least / step).ceil..(most / step).floor).map do |level|
            value = level * step
            height = y(value).round(1)
            %(<line x1="#{LEFT}" x2="#{RIGHT}" y1="#{height}" y2="#{height}" stroke="#d9d4c8"/>) +
              text(LEFT - 8, height + 4, said(value), anchor: "end")
          end
        end

        # A round one, so that there are some {LEVELS} levels.
        def step_of(range)
          size = 10.0**Math.log10(range / LEVELS).floor
          size * [1, 2, 5, 10].find { |factor| factor * size * LEVELS >= range }
        end

        def dates
          kind = table["columns"].first["kind"]
          (0...rows.size).step([(rows.size / DATES.to_f).ceil, 1].max).map do |place|
            words = Estrel::Analyses::Table.said(rows[place]["values"].first, kind)
            text(x(place), BOTTOM + 18, words, anchor: "middle")
          end
        end

        def line(one)
          points = rows.each_with_index.filter_map do |row, place|
            value = row["values"][one.at]
            ["#{x(place).round(1)},#{y(value).round(1)}", open?(row)] if value
          end
          whole, rest = points.partition { |_, open| !open }.map { |found| found.map(&:first) }
          path(whole, one.ink) + (rest.any? ? path([*whole.last(1), *rest], one.ink, ' stroke-dasharray="3 3"') : "")
        end

        def path(points, ink, dash = "")
          %(<polyline points="#{points.join(" ")}" fill="none" stroke="#{ink}" stroke-width="2"#{dash}/>)
        end

        # Pushed apart where the lines end close to each other.
        def names
          return [] if series.one?

          above = TOP - APART
          ends.sort_by(&:first).map do |height, one|
            above = [height, above + APART].max
            text(RIGHT + 8, above + 4, shortened(one.name), ink: one.ink)
          end
        end

        def ends
          series.filter_map do |one|
            value = rows.filter_map { |row| row["values"][one.at] unless open?(row) }.last
            [y(value), one] if value
          end
        end
      end
    end
  end
end
