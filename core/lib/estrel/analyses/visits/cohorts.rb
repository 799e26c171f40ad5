# frozen_string_literal: true

module Estrel
  module Analyses
    class Visits
      # How much time people spent on each day since they were first seen, by the step in which that was. A day is told
      # of those for whom it has come; of nobody else.
      class Cohorts
        # `from` and `to` bound the days on which its people were first seen; `seconds` per person, day by day.
        Cohort = Struct.new(:from, :to, :people, :seconds)

        # @param analysis [Visits]
        # @param found [Hash] of {Counting#to_h}, of all parts
        def initialize(analysis, found)
          @analysis = analysis
          @found = found
        end

        # @return [Array<Cohort>] those with people
        def all
          @all ||= @analysis.periods.each_with_index.filter_map do |period, index|
            cohort(period, index).then { |cohort| cohort if cohort.people.positive? }
          end
        end

        # @return [Array<Hash{Symbol => Object}>] plain JSON
        def to_a = all.map(&:to_h)

        private

        def cohort(period, index)
          first, last = period.values_at(:from, :to).map { |date| Calendar.number(date) }
          seconds = Array.new(AGES) do |age|
            people = heads(first, [last, end_of_range - age].min)
            people.zero? ? nil : @found[:spent].fetch((index * AGES) + age, 0).fdiv(Calendar::MICROS) / people
          end
          Cohort.new(period[:from], period[:to], heads(first, last), seconds).freeze
        end

        def end_of_range = Calendar.number(@analysis.to)

        # How many people were first seen in some days.
        def heads(first, last) = (first..last).sum { |day| @found[:heads].fetch(day, 0) }
      end
    end
  end
end
