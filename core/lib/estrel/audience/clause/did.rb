# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *did*: events of one type, all of whose property filters hold on the same event, inside a window, counted.
      # A count that zero fits is "did not" (or "at most"). Frozen.
      class Did
        # A property filter: name and {Comparison}.
        Filter = Struct.new(:property, :comparison) do
          def to_h = { "property" => property, **comparison.to_h }
        end

        # @return [String] name of the event type
        attr_reader :event
        # @return [Array<Filter>]
        attr_reader :filters
        # @return [Count]
        attr_reader :count
        # @return [Window]
        attr_reader :window

        def initialize(event:, filters:, count:, window:)
          @event = event.dup.freeze
          @filters = filters.map(&:freeze).freeze
          @count = count
          @window = window
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          return evaluator.invert(evaluator.membership(profiles_beyond_zero(evaluator))) if count.zero_fits?

          evaluator.membership(fitting(evaluator, count.expression(Polars.col("n"))))
        end

        # @return [Hash] plain JSON
        def to_h
          { "did" => { "event" => event, "where" => filters.map(&:to_h), "count" => count.to_h,
                       "window" => window.to_h } }
        end

        private

        # Where zero fits, those with events are out unless their count fits too.
        def profiles_beyond_zero(evaluator)
          fitting(evaluator, count.expression(Polars.col("n")).is_not)
        end

        # Profile ids with at least one matching event whose count `n` satisfies the condition.
        def fitting(evaluator, condition)
          matching = matching_events(evaluator)
          return matching.unique if count.minimum <= 1 && (count.maximum.nil? || count.none?)

          matching.to_frame.lazy.group_by("profile_id").agg([Polars.len.alias("n")]).filter(condition)
                  .select("profile_id").collect["profile_id"]
        end

        # One profile id per matching event.
        def matching_events(evaluator)
          first, last = window.days(evaluator.as_of)
          day = Polars.col("day")
          conditions = [day <= last]
          conditions << (day >= first) if first
          filters.each do |filter|
            column = Polars.col(Ledger::Layout.property(filter.property))
            conditions << filter.comparison.expression(column, evaluator.calendar)
          end
          evaluator.events(event).lazy.filter(conditions.reduce(:&)).select("profile_id").collect["profile_id"]
        end
      end
    end
  end
end
