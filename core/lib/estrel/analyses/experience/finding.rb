# frozen_string_literal: true

module Estrel
  module Analyses
    class Experience
      # What is said over the picture: of one line where it is done most; of two from where on the second is done more
      # often than the first; of more, which of them gains most. Places that fewer than {FEWEST} people have got to are
      # left out.
      class Finding
        FEWEST = 50
        # Rates that differ by less than this part of the greater are told as alike.
        ALIKE = 0.1
        private_constant :ALIKE

        # @param analysis [Experience]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines.select { |line| sound(line).size > 1 && line.times.sum.positive? }
        end

        # @return [String]
        def to_s
          return "Fewer than #{FEWEST} people have got far enough to tell anything." if @lines.empty?

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
          most, least = sound(line).minmax_by { |at| -line.compared[at] }
          "Those who get that far #{line.name} most often at #{place(most)}, #{rate(line,
                                                                                    most)} times a #{each}, and " \
            "least at #{place(least)}, #{rate(line, least)} times. #{lost(line)}"
        end

        # "Of 9,812 people at visit 1, 2,301 have got to visit 21–50."
        def lost(line)
          first, last = sound(line).values_at(0, -1)
          "#{English.number(line.reached[last])} of #{English.people(line.reached[first])} have got to #{place(last)}."
        end

        def of_two(one, other)
          both = sound(one) & sound(other)
          return "“#{one.name}” and “#{other.name}” can be compared at no place." if both.empty?

          ends = both.values_at(0, -1).map { |end_of| "#{rates(one, other, end_of)} at #{place(end_of)}" }
          said = "times a #{each}: #{ends.join(", ")}"
          return "“#{one.name}” and “#{other.name}” end up about as frequent, #{said}." if alike?(one, other, both.last)

          at = crossing(one, other, both)
          return "“#{ahead(one, other, both).name}” stays ahead, #{said} (#{one.name}, #{other.name})." unless at

          "From #{place(at)} on, “#{other.name}” is done more often than “#{one.name}”, #{said} (the latter first)."
        end

        def alike?(one, other, place)
          low, high = [one, other].map { |line| line.compared[place] }.minmax
          high - low < ALIKE * high
        end

        def ahead(one, other, both) = one.compared[both.last] >= other.compared[both.last] ? one : other

        # From where on the other is done more often, to the end, having been done less often before.
        def crossing(one, other, both)
          more = both.map { |at| other.compared[at] > one.compared[at] }
          from = more.rindex(false)
          both[from + 1] if from && more.last
        end

        def each = @analysis.rated? ? @analysis.along : "person"

        def rates(one, other, at) = "#{rate(one, at)} and #{rate(other, at)}"

        def of_several
          gains = @lines.map { |line| [line, gain(line)] }
          most, least = gains.minmax_by { |_, gain| -gain }
          "“#{most.first.name}” grows most as people go on, #{change(most.first)}; “#{least.first.name}” least, " \
            "#{change(least.first)}."
        end

        def gain(line)
          first, last = sound(line).values_at(0, -1)
          line.compared[last] - line.compared[first]
        end

        def change(line)
          first, last = sound(line).values_at(0, -1)
          "from #{rate(line, first)} times a #{each} at #{place(first)} to #{rate(line, last)} at #{place(last)}"
        end

        def place(at) = @analysis.said(@analysis.places[at])

        def rate(line, at) = English.rate(line.compared[at])
      end
    end
  end
end
