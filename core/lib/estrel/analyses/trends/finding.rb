# frozen_string_literal: true

module Estrel
  module Analyses
    class Trends
      # What is said over the picture: of one line the last complete period against the one before and the first, and
      # its largest jump; of several, which is the highest, which has changed most, and the largest jump of all. Nothing
      # is compared with what fewer than {FEWEST} people are behind.
      class Finding
        FEWEST = 50
        # One of the compared periods.
        Point = Struct.new(:at, :value, :people)
        private_constant :Point

        # @param trends [Trends]
        # @param lines [Array<Line>]
        def initialize(trends, lines)
          @trends = trends
          @lines = lines
        end

        # @return [String]
        def to_s
          return "No one did this in this period." if @lines.all? { |line| line.people.sum.zero? }
          return "No complete #{unit} in this period yet." if sound.empty?

          @lines.one? ? of_one(@lines.first) : of_several
        end

        private

        def unit = @trends.steps.unit

        # The numbers of the periods that findings may rest on.
        def sound = @sound ||= @trends.periods.each_index.select { |index| @trends.periods[index][:sound] }

        def points(line) = sound.map { |at| Point.new(at, line.values[at], line.people[at]) }

        def of_one(line)
          points = points(line)
          last = points.last
          return "No data for the last complete #{unit} (#{span(last)})." if last.value.nil?

          said = ["#{figure(last.value)} in the last complete #{unit} (#{span(last)})", *compared(points)].join(": ")
          "#{[said, *jump(points)].join(". ")}."
        end

        # "1,234 people ended a ride", "The median distance of those who ended a ride was 2.1 km"
        def figure(value)
          name = @lines.first.name
          said = said(value)
          return "#{English.quoted(name)} was #{said}" if @trends.combined

          case @trends.measure.kind
          when "people" then "#{English.people(value)} #{name}"
          when "times" then "People #{name} #{English.counted(value, "time")}"
          when "per_person" then "People who #{name} did so #{said} times on average"
          when "share_of_active" then "#{said} of the active people #{name}"
          else "#{English.capitalized(@trends.measure.to_s)} of people who #{name} was #{said}"
          end
        end

        def compared(points)
          last = points.last
          before = growth(points[-2], last)
          first = growth(points.first, last) if points.size > 2
          changes = [before && "#{English.growth(before)} vs the previous #{unit}",
                     first && "#{English.growth(first)} vs the first (#{span(points.first)})"].compact
          changes.empty? ? [] : [changes.join(", ")]
        end

        # @return [Float, nil] nil where the two cannot be compared
        def growth(one, other)
          return if one.nil? || one.value.nil? || other.value.nil? || one.people < FEWEST || !one.value.positive?

          (other.value - one.value).fdiv(one.value)
        end

        # @return [Array(Float, Point), nil] by how much, and where; nil where all are within the usual variation
        def largest_jump(points)
          jumps = points.each_cons(2).filter_map { |one, other| [growth(one, other), other] if growth(one, other) }
          return if jumps.size < 3

          low, high = Statistics::Quantile.fences(jumps.map(&:first))
          jumps.reject { |growth, _| growth.between?(low, high) }.max_by { |growth, _| growth.abs }
        end

        def jump(points)
          growth, point = largest_jump(points)
          growth ? ["Largest change between #{unit}s: #{English.growth(growth)} (#{span(point)})"] : []
        end

        def of_several
          told = @lines.reject { |line| line.total.nil? || line.group[:kind] == "other" }
          highest = told.max_by(&:total) or return ""
          ["#{comparison(highest, told)}#{changed}.", *jump_of_all].join(" ")
        end

        # Of values that are put together as others, none is compared.
        def comparison(highest, told)
          figure = "#{said(highest.total)}#{unit_of_total}"
          return "All equal over the period: #{figure}" if told.size > 1 && told.map(&:total).uniq.one?

          shown = " of the values shown separately" if @lines.any? { |line| line.group[:kind] == "other" }
          "Highest#{shown}: #{English.quoted(highest.name)}, #{figure}"
        end

        def unit_of_total
          return "" if @trends.combined

          { "people" => " people", "times" => " times" }.fetch(@trends.measure.kind, "")
        end

        # The one that has changed most from the first complete period to the last.
        def changed
          found = @lines.filter_map do |line|
            growth = growth(points(line).first, points(line).last) if sound.size > 1
            [line, growth] if growth
          end
          return "" if found.size < 2

          line, growth = found.max_by { |_, change| change.abs }
          "; largest change from the first to the last complete #{unit}: #{English.quoted(line.name)}, " \
            "#{English.growth(growth)}"
        end

        def jump_of_all
          found = @lines.filter_map { |line| (jump = largest_jump(points(line))) && [line, *jump] }
          line, growth, point = found.max_by { |_, change, _| change.abs }
          return [] unless line

          ["Largest change between #{unit}s: #{English.quoted(line.name)}, #{English.growth(growth)} (#{span(point)})."]
        end

        def said(value)
          return English.rate(value) if @trends.combined == "per"

          @trends.measure.said(value)
        end


        def span(point)
          from, to = @trends.periods[point.at].values_at(:from, :to)
          case unit
          when "day" then English.date(to)
          when "month" then to.strftime("%B %Y")
          else "#{English.date(from)} to #{English.date(to)}"
          end
        end
      end
    end
  end
end
