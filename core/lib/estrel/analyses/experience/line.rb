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
        def reached = @reached ||= summed(blocks_reached)

        # @return [Array<Integer>] how often it was done at each place
        def times = @times ||= summed(blocks_of(counted[:times]))

        # @return [Array<Integer>] how many people did it at each place
        def people = @people ||= summed(blocks_of(counted[:people]))

        # @return [Array<Ratio>] at each place, times per person who got that far
        def per_person = @per_person ||= ratios(blocks_reached)

        # @return [Array<Ratio>] at each place, times per visit paid there, or per day or week people had there; of
        #   nothing where neither is counted
        def rates = @rates ||= ratios(blocks_of(@found[:spent] || {}))

        # @return [Array<Ratio>] what lines are compared by: rates, where there are any
        def compared = @analysis.rated? ? rates : per_person

        # @return [Array<Ratio>] at each place, what part of all series of the group
        def shares
          @shares ||= begin
            all = @found[:series].map { |one| blocks_of(one[:times]) }
            ratios(all.transpose.map { |block| block.transpose.map(&:sum) })
          end
        end

        # @param range [Range<Integer>] of {Experience#places}
        # @return [Hash] the condition, as JSON, of who did it there
        def people_in(range)
          return in_days(range) if @analysis.timed?
          return so_far_in(range) unless @analysis.along == "visit"

          number = { "at_least" => range.begin, "at_most" => range.end }.compact
          within({ "visited" => { "count" => { "at_least" => 1 }, "number" => number,
                                  "doing" => [@analysis.selections[series].to_h], "window" => EVER } })
        end

        # @param range [Range<Integer>]
        # @return [Hash] the condition, as JSON, of who got that far
        def got_to(range)
          case @analysis.along
          when "day", "week" then within(*had(range))
          when "visit" then within({ "visited" => { "count" => { "at_least" => range.begin }, "window" => EVER } })
          when "time" then within(did({ "any_event" => true, "where" => [so_far("at_least", range.begin)] }))
          when "level"
            within({ "did" => { "event" => @analysis.level["event"], "where" => [], "measure" => highest(range),
                                "window" => EVER } })
          end
        end

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          between = ->(ratio) { ratio.interval if ratio.interval.first }
          { series: series, name: name, group: group.slice(:id, :kind, :value, :people_in), reached: reached,
            times: times, people: people, **estimates.transform_values { |ratios| ratios.map(&:value) },
            intervals: estimates.transform_values { |ratios| ratios.map(&between) } }
        end

        private

        def size = @analysis.edges.size

        def estimates = { per_person: per_person, rates: rates, shares: shares }

        def counted = @found[:series][series]

        # @return [Array<Array<Integer>>] of each block, what was counted at each place
        def blocks_of(counted)
          Array.new(Counting::BLOCKS) do |block|
            first = ((@place * Counting::BLOCKS) + block) * size
            Array.new(size) { |at| counted.fetch(first + at, 0) }
          end
        end

        def blocks_reached
          @blocks_reached ||= blocks_of(@found[:reached]).map do |farthest|
            farthest.each_index.map { |at| farthest.drop(at).sum }
          end
        end

        def summed(blocks) = blocks.transpose.map(&:sum)

        # @param each [Array<Array<Integer>>] of each block and place, what times are divided by
        def ratios(each)
          pairs = blocks_of(counted[:times]).zip(each).map { |times, of| times.zip(of) }
          pairs.transpose.map { |blocks| Ratio.new(blocks) }
        end

        # Whoever did it while having got so far and no further.
        def so_far_in(range)
          selection = @analysis.selections[series].to_h
          bounds = [so_far("at_least", range.begin), (so_far("less", range.end + 1) if range.end)].compact
          within(did({ **selection, "where" => [*selection["where"], *bounds] }))
        end

        def so_far(compare, value)
          what = @analysis.level ? @analysis.level.slice("event", "property") : Audience::SoFarFilter::MINUTES
          { "so_far" => what, "compare" => compare, "value" => value }
        end

        def did(selection, window = EVER)
          { "did" => { **selection, "count" => { "at_least" => 1 }, "window" => window } }
        end

        def highest(range)
          { "of" => @analysis.level["property"], "take" => "max", "compare" => "at_least", "value" => range.begin }
        end

        # Of whoever has had all of the place.
        def in_days(range)
          days = days_of(range)
          window = { "first_days" => days.end && (days.end + 1), "after_first_days" => days.begin }
          window = window.select { |_, count| count&.positive? }
          within(*had(range), did(@analysis.selections[series].to_h, window.empty? ? EVER : window))
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
