# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # One group, step by step.
      class Line
        # What a step comes to: how many `people` (or visits) got there, `share` of the first step with its 95%
        # interval, `of_previous`, how many stopped there (`lost`), of one that may be skipped how many `went_on` from
        # it, and the `wait` since the step before: quartiles and median, seconds, and its `spread` over {Waits::BARS}.
        Step = Struct.new(:people, :share, :low, :high, :of_previous, :lost, :went_on, :wait, :spread,
                          keyword_init: true)

        # What is told of how long it took, as the share that took no longer.
        WAIT = { lower: 0.25, median: 0.5, upper: 0.75 }.freeze

        # @return [Hash{Symbol => Object}] see {EventGroups#named}
        attr_reader :group

        # @param analysis [Funnel]
        # @param found [Hash] of {Counting#to_h}, of all parts, with `waits` as {Waits}
        # @param near [Sum::Rows] see {Waits.near}
        # @param group [Hash]
        # @param place [Integer] of the group
        def initialize(analysis, found, near, group, place)
          @analysis = analysis
          @found = found
          @near = near
          @group = group
          @first = place * analysis.size * 2
        end

        # @return [String]
        def name = group[:kind] == "all" ? "all people" : @analysis.groups.said(group)

        # @return [Array<Integer>] how many got to each step
        def people = counts(@found[:reached])

        # @return [Array<Step>]
        def steps = @steps ||= people.each_index.map { |at| step(at) }

        # @param at [Integer] number of a step
        # @return [Hash] the condition, as JSON, of whoever got there
        def got_to(at) = of_group { |where| [@analysis.order(@analysis.way(at), where)] }

        # @param at [Integer] number of a step that may not be skipped, and is not the last one
        # @return [Hash] the condition, as JSON, of whoever got there and no further
        def stopped(at)
          { "all" => [got_to(at), { "not" => got_to(@analysis.after(at)) }] }
        end

        # @param at [Integer] number of a step that may be skipped
        # @return [Hash] the condition, as JSON, of whoever went on from there
        def went_on(at)
          of_group { |where| [@analysis.order([*@analysis.way(at), @analysis.after(at)], where)] }
        end

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          { name: name, group: group.slice(:id, :kind, :value, :people_in), steps: steps.map(&:to_h),
            over: @found[:over]&.map { |counted| counts(counted) } }
        end

        private

        def counts(counted) = Array.new(@analysis.size) { |at| counted.fetch(@first + at, 0) }

        def step(at)
          first = people.first
          here = people[at]
          low, high = Statistics::Shares.wilson(here, first) if first.positive?
          previous = @analysis.way(at)[-2]
          Step.new(people: here, share: share(here, first), low: low, high: high,
                   of_previous: previous && share(here, people[previous]), **further(at, here),
                   wait: wait(@first + at), spread: waits.spread(@first + at)).freeze
        end

        def further(at, here)
          skipped = !@analysis.needed.include?(at)
          after = @analysis.after(at)
          { lost: (here - people[after] if after && !skipped),
            went_on: (@found[:reached].fetch(@first + @analysis.size + at, 0) if skipped) }
        end

        def share(part, all) = all.positive? ? part.fdiv(all) : nil

        def waits = @found[:waits]

        def wait(code)
          WAIT.transform_values { |share| waits.quantile(code, share, @near) } if waits.spread(code)
        end

        def of_group(&) = @analysis.people_of(group, &)
      end
    end
  end
end
