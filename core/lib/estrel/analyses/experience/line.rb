# frozen_string_literal: true

module Estrel
  module Analyses
    class Experience
      # One series of one group, place by place.
      class Line
        EVER = { "ever" => true }.freeze
        private_constant :EVER

        # @return [Integer] place of the events in the question
        attr_reader :series
        # @return [Hash{Symbol => Object}] see {EventGroups#named}
        attr_reader :group

        # @param analysis [Experience]
        # @param found [Hash] of {Counting#to_h}, of all parts
        # @param series [Integer]
        # @param group [Hash]
        # @param place [Integer] of the group
        def initialize(analysis, found, series, group, place)
          @analysis = analysis
          @found = found
          @series = series
          @group = group
          @place = place
        end

        # @return [String]
        def name = @analysis.line_name(series, group)

        # @return [Array<Integer>] how many people have got to each place
        def reached
          @reached ||= begin
            farthest = Array.new(size) { |at| @found[:reached].fetch(first + at, 0) }
            farthest.each_index.map { |at| farthest.drop(at).sum }
          end
        end

        # @return [Array<Integer>] how often it was done at each place
        def times = counts(:times)

        # @return [Array<Integer>] how many people did it at each place
        def people = counts(:people)

        # @return [Array<Float, nil>] times per person who got that far
        def per_person = times.zip(reached).map { |times, people| people.zero? ? nil : times.fdiv(people) }

        # @return [Array<Float, nil>] times per visit paid there, or per day or week people had there
        def rates
          return Array.new(size) unless @found[:spent]

          times.zip(size_of(@found[:spent])).map { |times, spent| spent.zero? ? nil : times.fdiv(spent) }
        end

        # @return [Array<Float, nil>] what lines are compared by: rates, where there are any
        def compared = @analysis.rated? ? rates : per_person

        # @return [Array<Float, nil>] what part of all series of the group
        def shares
          all = @found[:series].map { |counted| size_of(counted[:times]) }.transpose.map(&:sum)
          times.zip(all).map { |times, sum| sum.zero? ? nil : times.fdiv(sum) }
        end

        # @param range [Range<Integer>] of {Experience#places}
        # @return [Hash, nil] the condition, as JSON, of who did it there; nil where none can say it
        def people_in(range)
          return in_days(range) if @analysis.timed?
          return unless @analysis.along == "visit"

          number = { "at_least" => range.begin, "at_most" => range.end }.compact
          within({ "visited" => { "count" => { "at_least" => 1 }, "number" => number,
                                  "doing" => [@analysis.selections[series].to_h], "window" => EVER } })
        end

        # @param range [Range<Integer>]
        # @return [Hash, nil] the condition, as JSON, of who got that far; nil where none can say it
        def got_to(range)
          case @analysis.along
          when "day", "week" then within(*had(range))
          when "visit" then within({ "visited" => { "count" => { "at_least" => range.begin }, "window" => EVER } })
          when "level"
            within({ "did" => { "event" => @analysis.level["event"], "where" => [], "measure" => highest(range),
                                "window" => EVER } })
          end
        end

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          { series: series, name: name, group: group.slice(:id, :kind, :value, :people_in), reached: reached,
            times: times, people: people, per_person: per_person, rates: rates, shares: shares }
        end

        private

        def size = @analysis.edges.size

        def first = @place * size

        def counts(name) = size_of(@found[:series][series][name])

        def size_of(counted) = Array.new(size) { |at| counted.fetch(first + at, 0) }

        def highest(range)
          { "of" => @analysis.level["property"], "take" => "max", "compare" => "at_least", "value" => range.begin }
        end

        # Of whoever has had all of the place.
        def in_days(range)
          days = days_of(range)
          window = { "first_days" => days.end && (days.end + 1), "after_first_days" => days.begin }
          window = window.select { |_, count| count&.positive? }
          did = { "did" => { **@analysis.selections[series].to_h, "count" => { "at_least" => 1 },
                                                                  "window" => window.empty? ? EVER : window } }
          within(*had(range), did)
        end

        # The days since being first seen, the first of which is 0, that a place has.
        def days_of(range)
          each = @analysis.along == "week" ? 7 : 1
          (range.begin * each)..(range.end && (((range.end + 1) * each) - 1))
        end

        # Whoever was not first seen too lately to have had the place; of one without an end, its first day or week.
        def had(range)
          days = days_of(range.end ? range : range.begin..range.begin)
          return [] if days.end.zero?

          [{ "not" => { "seen" => { "window" => { "last_days" => days.end } } } }]
        end

        # Whom all of this is about.
        def within(*conditions)
          seen = { "seen" => { "window" => { "from" => @analysis.from.iso8601 } } } if @analysis.from
          all = [(group[:people_in] unless group[:kind] == "all"), seen, *conditions].compact
          all.one? ? all.first : { "all" => all }
        end
      end
    end
  end
end
