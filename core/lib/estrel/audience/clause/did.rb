# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *did*: selected events inside a window, counted (by events, days or visits), or a property of them measured. A
      # count that zero fits is "did not" (or "at most"). Frozen.
      class Did
        # @return [Selection]
        attr_reader :selection
        # @return [Window]
        attr_reader :window
        # @return [Count, nil] nil where something is measured
        attr_reader :count
        # @return [Measure, nil]
        attr_reader :measure

        def initialize(selection:, window:, count: nil, measure: nil)
          @selection = selection
          @window = window
          @count = count
          @measure = measure
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          return measured(evaluator) if measure
          return evaluator.invert(evaluator.membership(fitting(evaluator, outside))) if count.zero_fits?

          evaluator.membership(fitting(evaluator, count.expression(Polars.col("n"))))
        end

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h
          asked = measure ? { "measure" => measure.to_h } : { "count" => count.to_h }
          { "did" => { **selection.to_h, **asked, "window" => window.to_h } }
        end

        private

        # Where zero fits, those with events are out unless their count fits too.
        def outside = count.expression(Polars.col("n")).is_not

        # Profile ids with at least one matching event whose count `n` satisfies the condition.
        def fitting(evaluator, condition)
          return selection.rows(evaluator, window)["profile_id"].unique if count.once?

          counted(evaluator).filter(condition)["profile_id"]
        end

        # How often each did it; the same for every number asked for.
        def counted(evaluator)
          evaluator.remembered([:counted, selection.to_h, window.to_h, count.unit]) do
            by_visits = count.unit == "visits"
            rows = selection.rows(evaluator, window, keyed: by_visits)
            rows = evaluator.visits(window).marked(rows) if by_visits
            rows.lazy.group_by("profile_id").agg([unit.alias("n")]).collect
          end
        end

        # Days and visits never fall from one row of a person to the next, so each counts where it differs from the
        # row before.
        def unit
          return Polars.len if count.unit == "events"

          column = Polars.col(count.unit == "days" ? "day" : "visit")
          column.ne_missing(column.shift(1)).sum
        end

        def measured(evaluator)
          rows = selection.rows(evaluator, window, property: measure.property)
          mask = evaluator.membership(measure.fitting(rows, evaluator.calendar))
          return mask unless measure.nothing_fits?

          valued = rows.filter(Polars.col("value").is_not_null)["profile_id"]
          mask | evaluator.invert(evaluator.membership(valued))
        end
      end
    end
  end
end
