# frozen_string_literal: true

module Estrel
  module Analyses
    class Retention
      # What is said over the picture: of one line how many come back at first and at last, where the curve settles,
      # where it falls most, and which cohorts stand out beyond chance; of two, where they differ most; of more, who
      # comes back most and least. Nothing is said of what fewer than {FEWEST} starts are behind, or fewer than
      # {COHORTS} cohorts, where others have more: a single one tells as much of its dates.
      class Finding
        FEWEST = 50
        COHORTS = 3
        # When a return counts, in words around the name of the place.
        AT = { "in" => "%s", "or_later" => "%s or later", "and_before" => "%s and the one before",
               "every" => "every period up to %s", "by" => "by %s", "ranges" => "%s" }.freeze
        # Those of which a place tells something else than the one before, and may fall.
        FALLING = %w[in or_later every].freeze
        private_constant :AT, :FALLING

        # @param analysis [Retention]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [String]
        def to_s
          return "No one started in this period." if @lines.all? { |line| line.sizes.sum.zero? }

          told = @lines.select { |line| sound(line).any? }
          case told.size
          when 0 then "Not enough data: fewer than #{FEWEST} people have had time to return."
          when 1 then of_one(told.first)
          when 2 then of_two(*told)
          else of_several(told)
          end
        end

        private

        # Numbers of the places of a line that findings may rest on; the step of the start itself is none, unless there
        # is no other.
        def sound(line)
          least = [COHORTS, @analysis.places.each_index.map { |at| line.passed(at) }.max].min
          found = @analysis.places.each_index.select do |at|
            line.curve[at].size >= FEWEST && line.passed(at) >= least
          end
          later = found.select { |at| @analysis.places[at].end.positive? }
          later.empty? ? found : later
        end

        def of_one(line)
          first, *, last = places = sound(line)
          shares = "#{retention(first)} #{figure(line, first)}"
          shares += ", #{at(last)} #{figure(line, last, named: false)}#{settled(line, places)}" if last
          largest = [*steepest(line, places), *apart(line, first)].join("; ")
          ["#{shares}; #{began(line.curve[first].size)}", *(English.capitalized(largest) unless largest.empty?)]
            .join(". ") << "."
        end

        def began(count)
          return "#{English.people(count)} who first #{@analysis.start_words}" if @analysis.first?

          unit = @analysis.steps.unit
          "#{English.counted(count, "start")} (first time people #{@analysis.start_words} in each #{unit})"
        end

        # "34% (95% CI 33% to 35%)"; of a second one, "12% (11% to 13%)".
        def figure(line, at, named: true)
          point = line.curve[at]
          share, low, high = [point.share, point.low, point.high].map { |one| one && English.percent(one) }
          low ? "#{share} (#{"95% CI " if named}#{English.interval(low, high)})" : share
        end

        # "week 3 or later"
        def at(place) = format(AT.fetch(@analysis.counted), @analysis.said(@analysis.places[place]))

        # "Week 3 retention", "Retention by week 3"
        def retention(place)
          return "#{at(place).capitalize} retention" if %w[in ranges].include?(@analysis.counted)

          "Retention #{"in " unless @analysis.counted == "by"}#{at(place)}"
        end

        # From where on every share lies within what chance allows of the last one.
        def settled(line, places)
          return "" unless @analysis.counted == "in" && places.size > 3

          last = line.curve[places.last]
          away = places.rindex { |at| apart?(line.curve[at], last) } or return ", stable throughout"
          from = places[away + 1]
          from == places.last ? "" : ", stable from #{@analysis.said(@analysis.places[from])}"
        end

        def apart?(point, last) = point.low.nil? || last.low.nil? || point.low > last.high || point.high < last.low

        def steepest(line, places)
          return [] unless FALLING.include?(@analysis.counted) && places.size > 1

          losses = places.each_cons(2).map { |one, other| [one, other, line.beside(one, other), line.curve[other]] }
          one, other, before, after = losses.select { |*, from, to| falls?(from, to) }
                                            .max_by { |*, from, to| from.share - to.share }
          return [] unless one

          names = [one, other].map { |place| @analysis.said(@analysis.places[place]) }
          shares = [before, after].map { |point| English.percent(point.share) }
          ["largest drop: #{names[0]} to #{names[1]} (#{shares[0]} to #{shares[1]})"]
        end

        # Beyond chance: the two intervals lie apart.
        def falls?(before, after) = before.low && after.high && before.low > after.high

        # Each cohort is compared with all others.
        def apart(line, place)
          return [] unless @analysis.first?

          found = differences(line, place)
          worst, best = found.minmax_by(&:last)
          named = [("highest #{cohort(best)} (#{share(line, best, place)})" if best&.last&.positive?),
                   ("lowest #{cohort(worst)} (#{share(line, worst, place)})" if worst&.last&.negative?)].compact
          return [] if named.empty?

          ["significantly different cohorts in #{at(place)}: #{named.join(", ")}"]
        end

        def differences(line, place)
          shares = line.over_time(place)
          told = shares.each_index.select { |one| shares[one] && line.sizes[one] >= FEWEST }
          point = line.curve[place]
          told.filter_map do |one|
            own = [line.cells[one][place], line.sizes[one]]
            rest = [point.people - own[0], point.size - own[1]]
            next if rest[1] < FEWEST

            difference = Statistics::Shares.clear_difference(*own, *rest, told.size)
            [one, difference[:estimate]] if difference
          end
        end

        def cohort(found) = @analysis.cohort_said(found.first)

        def share(line, found, place) = English.percent(line.cells[found.first][place].fdiv(line.sizes[found.first]))

        def of_two(one, other)
          return of_several([one, other]) unless @analysis.first?

          both = sound(one) & sound(other)
          place, difference = largest_difference(one, other, both)
          names = "#{English.quoted(one.name)} and #{English.quoted(other.name)}"
          return "No significant difference in retention between #{names}." unless place

          shares = [one, other].map { |line| English.percent(line.curve[place].share) }
          "Largest difference: #{at(place)}, #{shares[0]} of #{English.quoted(one.name)} vs #{shares[1]} of " \
            "#{English.quoted(other.name)} (#{English.interval_of_difference(difference)})."
        end

        # Each place is one comparison.
        def largest_difference(one, other, places)
          found = places.filter_map do |place|
            figures = [other, one].flat_map { |line| line.curve[place].to_h.values_at(:people, :size) }
            difference = Statistics::Shares.clear_difference(*figures, places.size)
            [place, difference] if difference
          end
          found.max_by { |_, difference| difference[:estimate].abs }
        end

        # Each pair of groups is one comparison. Where people can begin several times, intervals respect that.
        def differ?(most, least, place, groups)
          more, fewer = [most, least].map { |line| line.curve[place] }
          return falls?(more, fewer) unless @analysis.first?

          figures = [more, fewer].flat_map { |point| [point.people, point.size] }
          !Statistics::Shares.clear_difference(*figures, groups * (groups - 1) / 2).nil?
        end

        def of_several(lines)
          place = lines.map { |line| sound(line) }.reduce(:&).first
          return "These groups have no complete #{@analysis.steps.unit} in common." unless place

          most, least = lines.minmax_by { |line| -line.curve[place].share }
          unless differ?(most, least, place, lines.size)
            return "No significant difference in retention between groups (#{at(place)})."
          end

          "#{retention(place)}: highest #{English.quoted(most.name)}, #{figure(most, place)}; " \
            "lowest #{English.quoted(least.name)}, #{figure(least, place)}."
        end
      end
    end
  end
end
