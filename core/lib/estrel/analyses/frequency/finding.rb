# frozen_string_literal: true

module Estrel
  module Analyses
    class Frequency
      # What is said over the picture: of one line how often people did it; of two in which bucket their shares differ
      # most, where chance does not explain it; of more, who did it most often. Nothing is compared where fewer than
      # {FEWEST} people did it.
      class Finding
        FEWEST = 50

        # @param frequency [Frequency]
        # @param lines [Array<Line>]
        def initialize(frequency, lines)
          @frequency = frequency
          @lines = lines
        end

        # @return [String]
        def to_s
          return "No one did this in this period." if @lines.none? { |line| line.mean && line.people.positive? }

          case @lines.size
          when 1 then of_one(@lines.first)
          when 2 then of_two(*@lines)
          else of_several
          end
        end

        private

        def of_one(line)
          index = line.counts.each_index.max_by { |at| line.counts[at] }
          who = " who #{@frequency.names[line.series]}" unless @frequency.of_all?
          who = "#{who} (#{English.quoted(@frequency.groups.said(line.group))})" unless line.group[:kind] == "all"
          "Median #{number(line.median)} #{counted(line.median)}, mean #{number(line.mean)} " \
            "(#{English.people(line.people)}#{who}). #{English.percent(line.shares[index])} did it #{often(index)}" \
            "#{last(line, index)}."
        end

        def last(line, most)
          last = line.shares.size - 1
          most == last ? "" : ", #{English.percent(line.shares.last)} #{often(last)}"
        end

        def of_two(one, other)
          return of_several if [one, other].any? { |line| line.people < FEWEST }

          index, difference = largest_difference(one, other)
          names = "#{English.quoted(one.name)} and #{English.quoted(other.name)}"
          return "No significant difference between #{names}." unless index

          shares = [one, other].map { |line| English.percent(line.shares[index]) }
          "Largest difference between #{names}: #{often(index)}, #{shares[0]} vs #{shares[1]} " \
            "(#{English.interval_of_difference(difference)})."
        end

        # Each bucket is one comparison.
        def largest_difference(one, other)
          found = one.counts.each_index.filter_map do |index|
            difference = Statistics::Shares.clear_difference(other.counts[index], other.people, one.counts[index],
                                                             one.people, one.counts.size)
            [index, difference] if difference
          end
          found.max_by { |_, difference| difference[:estimate].abs }
        end

        def of_several
          told = @lines.select { |line| line.mean && line.people >= FEWEST }
          return "Not enough data: fewer than #{FEWEST} people in each group." if told.empty?

          most, least = told.minmax_by { |line| -line.mean }
          if told.size > 1 && number(most.mean) == number(least.mean)
            return "The mean is the same in all groups: #{number(most.mean)} #{counted}."
          end

          highest = "Highest average: #{English.quoted(most.name)}, #{number(most.mean)} #{counted}"
          told.one? ? "#{highest}." : "#{highest}; lowest: #{English.quoted(least.name)}, #{number(least.mean)}."
        end

        # "once", "6–10 times", "on 3 days", "in 2 visits"
        def often(index)
          range = @frequency.buckets[index]
          return "not at all" if range == (0..0)
          return range.end == 1 ? "once" : "#{Frequency.said(range)} times" if @frequency.unit == "events"

          word = range.end == 1 ? @frequency.unit.delete_suffix("s") : @frequency.unit
          "#{@frequency.unit == "days" ? "on" : "in"} #{Frequency.said(range)} #{word}"
        end

        def counted(number = nil)
          unit = @frequency.unit == "events" ? "times" : @frequency.unit
          number == 1 ? unit.delete_suffix("s") : unit
        end

        def number(value) = English.quantity(value.round(1), "number", nil)
      end
    end
  end
end
