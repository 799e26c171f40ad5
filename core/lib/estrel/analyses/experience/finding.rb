# frozen_string_literal: true

module Estrel
  module Analyses
    class Experience
      # What is said over the picture, with 95% intervals: of one line where it is done most; of two from where on one
      # is done more often than the other, beyond chance at so many places (Bonferroni); of more, which of them gains
      # most. Places that fewer than {FEWEST} people have got to are left out.
      class Finding
        FEWEST = 50

        # @param analysis [Experience]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines.select { |line| sound(line).size > 1 && line.times.sum.positive? }
        end

        # @return [String]
        def to_s
          return "Not enough data: fewer than #{FEWEST} people reached a second stage." if @lines.empty?

          case @lines.size
          when 1 then of_one(@lines.first)
          when 2 then of_two(*@lines)
          else of_several
          end
        end

        private

        # The numbers of the places that findings may rest on. Of the last one, which has no end, only rates can be
        # compared with those of others.
        def sound(line)
          found = line.reached.each_index.select { |at| line.reached[at] >= FEWEST }
          @analysis.rated? ? found : found - [line.reached.size - 1]
        end

        def of_one(line)
          most, least = sound(line).minmax_by { |at| -line.compared[at].value }
          change = if apart(line.compared[most], line.compared[least], sound(line).size)
                     "highest at #{place(most)}, #{with_interval(line, most)} times per #{each}; lowest at " \
                       "#{place(least)}, #{with_interval(line, least)}"
                   else
                     "no significant change, #{with_interval(line, most)} times per #{each} at #{place(most)}"
                   end
          "#{English.capitalized(line.name)}: #{change}. #{lost(line)}"
        end

        # "2,301 of 9,812 people reached visit 21–50."
        def lost(line)
          first, last = sound(line).values_at(0, -1)
          "#{English.number(line.reached[last])} of #{English.people(line.reached[first])} reached #{place(last)}."
        end

        def of_two(one, other)
          both = sound(one) & sound(other)
          names = "#{English.quoted(one.name)} and #{English.quoted(other.name)}"
          return "#{names} have no stage in common with enough data." if both.empty?

          rates = "#{both.values_at(0, -1).map { |at| rates(one, other, at) }.join(", ")} " \
                  "(#{English.quoted(one.name)} vs #{English.quoted(other.name)}, times per #{each})"
          ahead = both.to_h { |at| [at, ahead_by(other, one, at, both.size)] }
          case ahead[both.last]
          when 0 then "No significant difference between #{names} at the last stage: #{rates}."
          when 1 then of_overtaken(one, other, ahead, rates)
          else of_overtaken(other, one, ahead.transform_values(&:-@), rates)
          end
        end

        # @param ahead [Hash{Integer => Integer}] see {#ahead_by}, of the second; 1 at the last place
        def of_overtaken(one, other, ahead, rates)
          throughout = ahead.values.all?(1) ? "is higher at every stage" : "is higher at the last stage"
          return "#{English.quoted(other.name)} #{throughout}: #{rates}." unless ahead.value?(-1)

          from = ahead.keys.reverse.take_while { |at| ahead[at] == 1 }.last
          "#{English.quoted(other.name)} is higher than #{English.quoted(one.name)} from #{place(from)} on: #{rates}."
        end

        # 1 where the first is done more often beyond chance, of so many places that are looked at, -1 where less often.
        def ahead_by(one, other, at, looks)
          difference = apart(one.compared[at], other.compared[at], looks)
          difference ? difference <=> 0 : 0
        end

        # @return [Float, nil] by how much two differ, where chance does not explain it
        def apart(one, other, looks)
          found = one.difference(other)
          found[:estimate] if found && found[:p_value] <= 0.05 / looks
        end

        def each = @analysis.rated? ? @analysis.along : "person"

        # "1.000 (0.980 to 1.020) vs 0 at visit 1"
        def rates(one, other, at) = "#{with_interval(one, at)} vs #{with_interval(other, at)} at #{place(at)}"

        def of_several
          gains = @lines.map { |line| [line, gain(line)] }
          most, least = gains.minmax_by { |_, gain| -gain }
          "Largest increase: #{English.quoted(most.first.name)}, #{change(most.first)}; " \
            "smallest: #{English.quoted(least.first.name)}, #{change(least.first)}."
        end

        def gain(line)
          first, last = sound(line).values_at(0, -1)
          line.compared[last].value - line.compared[first].value
        end

        def change(line)
          first, last = sound(line).values_at(0, -1)
          "from #{with_interval(line, first)} times per #{each} at #{place(first)} to #{with_interval(line, last)} " \
            "at #{place(last)}"
        end

        # "0.121 (0.110 to 0.132)", the interval at 95%.
        def with_interval(line, at)
          ratio = line.compared[at]
          low, high = ratio.interval.map { |end_of| end_of && English.rate([end_of, 0.0].max) }
          said = English.rate(ratio.value)
          low && low != high ? "#{said} (#{English.interval(low, high)})" : said
        end

        def place(at) = @analysis.said(@analysis.places[at])
      end
    end
  end
end
