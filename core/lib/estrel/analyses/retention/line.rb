# frozen_string_literal: true

module Estrel
  module Analyses
    class Retention
      # One group: its cohorts, their cells, and the curve they make together.
      class Line
        # A point of the curve: of `size` starts `people` with a return, what share that is, with its 95% interval.
        Point = Struct.new(:people, :size, :share, :low, :high, keyword_init: true)

        # @return [Hash{Symbol => Object}] see {EventGroups#named}
        attr_reader :group

        # @param analysis [Retention]
        # @param found [Hash] of {Counting#to_h}, of all parts
        # @param group [Hash]
        # @param place [Integer] of the group
        def initialize(analysis, found, group, place)
          @analysis = analysis
          @found = found
          @group = group
          @blocks = Counting.blocks(analysis)
          @first = place * @blocks * analysis.cohorts
        end

        # @return [String]
        def name = group[:kind] == "all" ? "all people" : @analysis.groups.said(group)

        # @return [Array<Integer>] how many began in each cohort
        def sizes = @sizes ||= cohorts.map { |cohort| blocks.sum { |block| size(block, cohort) } }

        # @return [Array<Array<Integer>>] of each cohort, how many had a return at each place
        def cells
          @cells ||= cohorts.map { |cohort| blocks.map { |block| returned(block, cohort) }.transpose.map(&:sum) }
        end

        # @return [Array<Point>] over the cohorts for which each place has passed
        def curve = @curve ||= @analysis.places.each_index.map { |at| point(at) }

        # @param at [Integer] number of a place
        # @return [Integer] how many cohorts in which anybody began it has passed for
        def passed(at) = cohorts.count { |cohort| told?(cohort, at) && sizes[cohort].positive? }

        # @param at [Integer] number of a place
        # @param later [Integer] number of a later one
        # @return [Point] of the first, over the cohorts for which the later one has passed: both are of the same people
        def beside(at, later) = point(at, cohorts.select { |cohort| told?(cohort, later) })

        # @param at [Integer] number of a place
        # @return [Array<Float, nil>] share of each cohort for which it has passed
        def over_time(at)
          cohorts.map { |cohort| cells[cohort][at].fdiv(sizes[cohort]) if told?(cohort, at) && sizes[cohort].positive? }
        end

        # @param at [Integer] number of a place
        # @return [Hash{Symbol => Object}, nil] `slope`, `low`, `high` (change of the share per step) and `fitted` of
        #   each cohort; nil where there is too little to tell
        def trend(at)
          told = over_time(at).each_with_index.filter_map { |share, cohort| [cohort, share, sizes[cohort]] if share }
          line = Statistics::WeightedLine.of(told) or return
          { slope: line.slope, low: line.low, high: line.high,
            fitted: cohorts.map { |cohort| line.at(cohort) if told.any? { |found, *| found == cohort } } }
        end

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          at = @analysis.looked_at
          { name: name, group: group.slice(:id, :kind, :value, :people_in), sizes: sizes, cells: cells,
            curve: curve.map(&:to_h), over_time: at && over_time(at), trend: at && trend(at) }
        end

        private

        def cohorts = 0...@analysis.cohorts

        def blocks = 0...@blocks

        def code(block, cohort) = @first + (block * @analysis.cohorts) + cohort

        def size(block, cohort) = @found[:sizes].fetch(code(block, cohort), 0)

        # Starts with a return at each place: those whose last period lies there or later, or whose first there or
        # before, where that is what is asked.
        def returned(block, cohort)
          width = @analysis.places.size
          counts = Array.new(width) { |at| @found[:cells].fetch((code(block, cohort) * width) + at, 0) }
          case @analysis.counted
          when "or_later" then counts.each_index.map { |at| counts.drop(at).sum }
          when "by" then counts.each_index.map { |at| counts.first(at + 1).sum }
          else counts
          end
        end

        def told?(cohort, at) = @analysis.complete?(cohort, @analysis.places[at])

        def point(at, told = cohorts.select { |cohort| told?(cohort, at) })
          people = told.sum { |cohort| cells[cohort][at] }
          size = told.sum { |cohort| sizes[cohort] }
          return Point.new(people: people, size: size).freeze if size.zero?

          low, high = @analysis.first? ? Statistics::Shares.wilson(people, size) : by_blocks(told, at)
          Point.new(people: people, size: size, share: people.fdiv(size), low: low, high: high).freeze
        end

        def by_blocks(told, at)
          pairs = blocks.map do |block|
            [told.sum { |cohort| in_blocks[block][cohort][at] }, told.sum { |cohort| size(block, cohort) }]
          end
          Statistics::Shares.jackknife(pairs)
        end

        def in_blocks = @in_blocks ||= blocks.map { |block| cohorts.map { |cohort| returned(block, cohort) } }
      end
    end
  end
end
