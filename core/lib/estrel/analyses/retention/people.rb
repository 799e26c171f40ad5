# frozen_string_literal: true

module Estrel
  module Analyses
    class Retention
      # The conditions, as JSON, of the people behind cohorts and cells.
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
        def began(cohort) = of_group { |where| [started(cohort, where)] }

        # @param cohort [Integer]
        # @param place [Range<Integer>] of {Retention#places}
        # @return [Hash, nil] whoever of it had a return there; nil where it has not begun
        def returned(cohort, place)
          return if @periods[cohort + place.begin].nil?

          of_group { |where| [started(cohort, where), *at(cohort, place, where)] }
        end

        # @param place [Integer] number of one
        # @return [Hash, nil] whoever had a return there, of all the cohorts for which it has passed
        def on_curve(place)
          range = @analysis.places[place]
          told = @periods.each_index.select { |cohort| @analysis.complete?(cohort, range) }
          return if told.empty?

          { "any" => told.map { |cohort| returned(cohort, range) } }
        end

        private

        def of_group(&) = @analysis.people_of(@group, &)

        def started(cohort, where) = @analysis.began_in(days(cohort, cohort), where)

        def at(cohort, place, where)
          period = place.end
          case @analysis.counted
          when "or_later" then [came_back(cohort, period, last(cohort), where)]
          when "and_before" then [period - 1, period].map { |one| came_back(cohort, one, one, where) }
          when "every" then (1..period).map { |one| came_back(cohort, one, one, where) }
          when "by" then [came_back(cohort, 1, period, where)]
          else [came_back(cohort, place.begin, period, where)]
          end
        end

        # The last period that is looked at after a start in a cohort.
        def last(cohort) = @periods.size - 1 - (@analysis.elapsed? ? 0 : cohort)

        # In the step of the start itself what comes back has to follow it.
        def came_back(cohort, first, last, where)
          return since_start(cohort, first, last, where) if @analysis.elapsed?

          window = days(cohort + first, cohort + last)
          if first.zero?
            steps = [@analysis.start_of(where), @analysis.return_to.to_h]
            return { "order" => { "steps" => steps, "window" => window } }
          end

          { "did" => { **@analysis.return_to.to_h, "count" => { "at_least" => 1 }, "window" => window } }
        end

        # The first start ever, or the first since the cohort began, which is the one in it.
        def since_start(cohort, first, last, where)
          window = @analysis.first? ? { "ever" => true } : { "from" => @periods[cohort][:from].iso8601 }
          window = window.except("ever").merge("to" => @periods.last[:to].iso8601)
          days = @analysis.elapsed / (86_400 * Calendar::MICROS)
          soon = { "within" => { "days" => (last + 1) * days } }
          soon["after"] = { "days" => first * days } if first.positive?
          steps = [{ **@analysis.start_of(where), "first" => true }, { **@analysis.return_to.to_h, **soon }]
          { "order" => { "steps" => steps, "window" => window } }
        end

        def days(first, last)
          to = (@periods[last] || @periods.last)[:to]
          { "from" => @periods[first][:from].iso8601, "to" => to.iso8601 }
        end
      end
    end
  end
end
