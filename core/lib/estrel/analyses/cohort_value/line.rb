# frozen_string_literal: true

module Estrel
  module Analyses
    class CohortValue
      # One group: what its cohorts brought in, and the curves they make together. A period is told of the cohorts for
      # which it has ended.
      class Line
        # After so many periods it has paid what it cost: `at`, and from `low` to `high` by the 95% interval; nil where
        # it has not yet.
        Payback = Struct.new(:at, :low, :high, keyword_init: true)

        # @return [Hash{Symbol => Object}] see {EventGroups#named}
        attr_reader :group

        # @param analysis [CohortValue]
        # @param found [Hash] of {Counting#to_h}, of all parts
        # @param group [Hash]
        # @param place [Integer] of the group
        def initialize(analysis, found, group, place)
          @analysis = analysis
          @found = found
          @group = group
          @first = place * Counting::BLOCKS * analysis.cohorts
        end

        # @return [String]
        def name = group[:kind] == "all" ? "all people" : @analysis.groups.said(group)

        # @return [Array<Integer>] how many began in each cohort
        def sizes = @sizes ||= cohorts.map { |cohort| blocks.sum { |block| size(block, cohort) } }

        # @return [Array<Array<Float, nil>>] of each cohort, what it brought in in each period that has begun
        def totals
          @totals ||= cohorts.map do |cohort|
            (0...(@analysis.cohorts - cohort)).map { |period| blocks.sum { |one| brought(one, cohort, period) }.to_f }
          end
        end

        # @return [Array<Float, nil>] per person in each period
        def per_person = @per_person ||= cohorts.map { |period| without(period, nil) }

        # @return [Array<Float, nil>] per person up to each period: the sum of these
        def cumulative = @cumulative ||= running_sum(per_person)

        # @return [Array<Array(Float, Float)>, Array<Array(nil, nil)>] the 95% interval of each of {#cumulative}
        def intervals = @intervals ||= jackknifed(cumulative, left_out)

        # @return [Float, Integer, nil] what winning a person has cost; nil where it is not known
        def cost = @analysis.cost || (mean_cost(nil) if @analysis.cost_of)

        # @return [Integer] of how many the attribute does not say what they cost
        def unpriced = @analysis.cost_of ? sizes.sum - priced(nil) : 0

        # @return [Array<Float, nil>] the mean per person and period up to each period
        def running = cumulative.each_with_index.map { |value, period| value && (value / (period + 1)) }

        # What periods bring in goes on falling as in the last ones; where that has not fallen, it stays what it was.
        #
        # @return [Array<Float>] the curve carried on, from its last period on; empty where nothing can be said
        def projection
          last = cumulative.rindex { |value| !value.nil? } or return []
          known = per_person[..last].last(BEHIND)
          return [] unless known.size == BEHIND && known.all? { |value| value&.positive? }

          line = Statistics::WeightedLine.of(known.each_with_index.map { |value, at| [at, Math.log(value), 1] })
          middle = (BEHIND - 1) / 2.0
          ahead = (0...AHEAD).map { |on| Math.exp(line.at(line.slope.negative? ? BEHIND + on : middle)) }
          ahead.reduce([cumulative[last]]) { |so_far, value| [*so_far, so_far.last + value] }
        end

        # @return [Payback, nil] nil where nothing is said to have been paid
        def payback
          return unless cost

          margins = less(cumulative, cost)
          without = blocks.map { |block| less(left_out[block], @analysis.cost || mean_cost(block)) }
          between = jackknifed(margins, without)
          first = ->(values) { values.index { |value| value && value >= 0 } }
          Payback.new(at: first.call(margins), low: first.call(between.map(&:last)),
                      high: first.call(between.map(&:first))).freeze
        end

        # @param period [Integer]
        # @return [Integer] people of the cohorts for which it has ended
        def people(period) = told(period).sum { |cohort| sizes[cohort] }

        # @param period [Integer]
        # @return [Integer] how many cohorts these are
        def passed(period) = told(period).count { |cohort| sizes[cohort].positive? }

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          { name: name, group: group.slice(:id, :kind, :value, :people_in), sizes: sizes, totals: totals,
            per_person: per_person, cumulative: cumulative, low: intervals.map(&:first), high: intervals.map(&:last),
            running: running, projection: projection, cost: cost, unpriced: unpriced, payback: payback&.to_h }
        end

        private

        def cohorts = 0...@analysis.cohorts

        def blocks = 0...Counting::BLOCKS

        def told(period) = cohorts.select { |cohort| @analysis.complete?(cohort, period) }

        def code(block, cohort) = @first + (block * @analysis.cohorts) + cohort

        def size(block, cohort) = @found[:sizes].fetch(code(block, cohort), 0)

        def brought(block, cohort, period)
          @found[:brought].fetch((code(block, cohort) * @analysis.cohorts) + period, 0)
        end

        # The curves without a block of people each.
        def left_out
          @left_out ||= blocks.map { |block| running_sum(cohorts.map { |period| without(period, block) }) }
        end

        def jackknifed(curve, left_out)
          curve.each_with_index.map do |value, period|
            told = left_out.filter_map { |other| other[period] }
            value && told.size > 1 ? Statistics::Means.jackknifed(value, told) : [nil, nil]
          end
        end

        def less(curve, cost) = curve.map { |value| value && cost && (value - cost) }

        # Of everybody of whom it is known, or without a block of people.
        def mean_cost(block)
          people = priced(block)
          sum(:costs, block).fdiv(people) if people.positive?
        end

        def priced(block) = sum(:priced, block)

        def sum(what, block)
          (blocks.to_a - [block]).sum { |one| cohorts.sum { |cohort| @found[what].fetch(code(one, cohort), 0) } }
        end

        # Per person in a period, of everybody or without a block of people.
        def without(period, block)
          told = told(period)
          people = told.sum { |cohort| sizes[cohort] - (block ? size(block, cohort) : 0) }
          return if people.zero?

          sum = told.sum(0.0) { |cohort| totals[cohort][period] - (block ? brought(block, cohort, period) : 0) }
          sum.fdiv(people)
        end

        # Up to the first period of which nothing is told.
        def running_sum(values)
          so_far = 0.0
          values.map { |value| so_far &&= value && (so_far + value) }
        end
      end
    end
  end
end
