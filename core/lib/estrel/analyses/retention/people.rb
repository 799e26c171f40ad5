# frozen_string_literal: true

module Estrel
  module Analyses
    class Retention
      # The conditions, as JSON, of the people behind cohorts and cells. Elapsed periods no condition can say.
      class People
        # @param analysis [Retention]
        # @param group [Hash{Symbol => Object}] see {EventGroups#named}
        def initialize(analysis, group)
          @analysis = analysis
          @group = group
          @periods = analysis.periods
        end

        # @param cohort [Integer]
        # @return [Hash] whoever began in it
        def began(cohort) = within([started(cohort)])

        # @param cohort [Integer]
        # @param place [Range<Integer>] of {Retention#places}
        # @return [Hash, nil] whoever of it had a return there
        def returned(cohort, place)
          return if @analysis.elapsed? || @periods[cohort + place.begin].nil?

          within([started(cohort), *at(cohort, place)])
        end

        # @param place [Integer] number of one
        # @return [Hash, nil] whoever had a return there, of all the cohorts for which it has passed
        def on_curve(place)
          range = @analysis.places[place]
          told = @periods.each_index.select { |cohort| @analysis.complete?(cohort, range) }
          return if told.empty? || @analysis.elapsed?

          { "any" => told.map { |cohort| returned(cohort, range) } }
        end

        private

        def started(cohort)
          window = { "window" => days(cohort, cohort) }
          return { "first" => { **@analysis.start.to_h, **window } } if @analysis.first?

          { "did" => { **@analysis.start.to_h, "count" => { "at_least" => 1 }, **window } }
        end

        def at(cohort, place)
          period = place.end
          case @analysis.counted
          when "or_later" then [came_back(cohort, period, @periods.size - 1 - cohort)]
          when "and_before" then [period - 1, period].map { |one| came_back(cohort, one, one) }
          when "every" then (1..period).map { |one| came_back(cohort, one, one) }
          when "by" then [came_back(cohort, 1, period)]
          else [came_back(cohort, place.begin, period)]
          end
        end

        # In the step of the start itself what comes back has to follow it.
        def came_back(cohort, first, last)
          window = days(cohort + first, cohort + last)
          if first.zero?
            return { "order" => { "steps" => [@analysis.start.to_h, @analysis.return_to.to_h], "window" => window } }
          end

          { "did" => { **@analysis.return_to.to_h, "count" => { "at_least" => 1 }, "window" => window } }
        end

        def days(first, last)
          to = (@periods[last] || @periods.last)[:to]
          { "from" => @periods[first][:from].iso8601, "to" => to.iso8601 }
        end

        def within(conditions)
          all = [(@group[:people_in] unless @group[:kind] == "all"), *conditions].compact
          all.one? ? all.first : { "all" => all }
        end
      end
    end
  end
end
