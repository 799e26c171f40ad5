# frozen_string_literal: true

module Estrel
  module Analyses
    class Frequency
      # Makes the lines of a picture out of what was counted.
      class Lines
        # @param frequency [Frequency]
        # @param groups [Array<Hash>] see {EventGroups#named}
        # @param found [Hash] what all parts have found
        def initialize(frequency, groups, found)
          @frequency = frequency
          @groups = groups
          @found = found
        end

        # @return [Array<Line>] series by series, and of each group by group
        def all
          @all ||= @found[:series].each_with_index.flat_map do |counted, index|
            @groups.each_with_index.map { |group, place| line(index, group, place, counted) }
          end
        end

        private

        def line(index, group, place, counted)
          often = often(counted[:now], place)
          counts = counts(often, place)
          Line.new(series: index, name: @frequency.line_name(index, group), group: group, people: counts.sum,
                   counts: counts, shares: shares(counts),
                   behind: counted[:behind] && shares(counts(often(counted[:behind], place), place)),
                   over: counted[:over] && over_time(counted[:over], place), mean: mean(often), median: median(often),
                   did: did(index)).freeze
        end

        # @return [Array<Array(Integer, Integer)>] how often, and how many people, in order
        def often(found, place)
          found.filter_map { |code, people| [code % MOST, people] if code.div(MOST) == place }.sort
        end

        def counts(often, place)
          counts = @frequency.edges.each_cons(2).map { |from, after| people(often, from...after) }
          counts << people(often, @frequency.edges.last..)
          @frequency.of_all? ? [@found[:all].fetch(place, 0) - counts.sum, *counts] : counts
        end

        def people(often, range) = often.sum { |number, people| range.cover?(number) ? people : 0 }

        def shares(counts)
          all = counts.sum
          counts.map { |count| all.zero? ? nil : count.fdiv(all) }
        end

        def over_time(found, place)
          periods = @frequency.steps.size - 1
          width = @frequency.edges.size
          Array.new(periods) do |period|
            first = ((place * periods) + period) * width
            shares(Array.new(width) { |bucket| found.fetch(first + bucket, 0) })
          end
        end

        def mean(often)
          people = often.sum(&:last)
          people.zero? ? nil : often.sum { |number, count| number * count }.fdiv(people)
        end

        # The middle of all, or between the two in the middle.
        def median(often)
          people = often.sum(&:last)
          return if people.zero?

          [(people - 1) / 2, people / 2].sum { |place| at(often, place) }.fdiv(2)
        end

        def at(often, place)
          often.each { |number, people| return number if (place -= people).negative? }
        end

        def did(index)
          window = EventCounts.window(@frequency.range).to_h
          { "did" => { **@frequency.selections[index].to_h, "window" => window } }
        end
      end
    end
  end
end
