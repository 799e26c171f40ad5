# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # One group, step by step.
      class Line
        # What a step comes to: how many `people` (or visits) got there, `share` of the first step with its 95%
        # interval, `of_previous`, how many stopped there (`lost`), and the `wait` since the step before: quartiles and
        # median, seconds.
        Step = Struct.new(:people, :share, :low, :high, :of_previous, :lost, :wait, keyword_init: true)

        # @return [Hash{Symbol => Object}] see {EventGroups#named}
        attr_reader :group

        # @param analysis [Funnel]
        # @param found [Hash] of {Counting#to_h}, of all parts
        # @param group [Hash]
        # @param place [Integer] of the group
        def initialize(analysis, found, group, place)
          @analysis = analysis
          @found = found
          @group = group
          @first = place * analysis.size
        end

        # @return [String]
        def name = group[:kind] == "all" ? "everybody" : @analysis.groups.said(group)

        # @return [Array<Integer>] how many got to each step
        def people = counts(@found[:reached])

        # @return [Array<Step>]
        def steps = @steps ||= people.each_index.map { |at| step(at) }

        # @param count [Integer] of steps
        # @return [Hash] the condition, as JSON, of whoever got so far
        def got_to(count) = within([@analysis.order(count)])

        # @param count [Integer] of steps, not all of them
        # @return [Hash] the condition, as JSON, of whoever got so far and no further
        def stopped(count) = within([@analysis.order(count), { "not" => @analysis.order(count + 1) }])

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          { name: name, group: group.slice(:id, :kind, :value, :people_in), steps: steps.map(&:to_h),
            over: @found[:over]&.map { |counted| counts(counted) } }
        end

        private

        def counts(counted) = Array.new(@analysis.size) { |at| counted.fetch(@first + at, 0) }

        def step(at)
          first = people.first
          here, after = people[at, 2]
          low, high = Statistics::Shares.wilson(here, first) if first.positive?
          Step.new(people: here, share: share(here, first), low: low, high: high,
                   of_previous: (share(here, people[at - 1]) if at.positive?), lost: after && (here - after),
                   wait: wait(at)).freeze
        end

        def share(part, all) = all.positive? ? part.fdiv(all) : nil

        def wait(at)
          told = waits[@first + at] or return
          { lower: quantile(told, 0.25), median: quantile(told, 0.5), upper: quantile(told, 0.75) }
        end

        def quantile(told, share) = Statistics::Quantile.of(told, share).fdiv(Calendar::MICROS)

        def waits
          @waits ||= @found[:waits].group_by(%w[code wait]).agg([Polars.col("n").sum]).sort("wait").rows
                                   .group_by(&:first).transform_values { |rows| rows.map { |row| row.drop(1) } }
        end

        def within(conditions)
          all = [(group[:people_in] unless group[:kind] == "all"), *conditions].compact
          all.one? ? all.first : { "all" => all }
        end
      end
    end
  end
end
