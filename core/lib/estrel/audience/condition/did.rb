# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *did*: selected events inside a window, counted (by events, days, weeks, visits), or measured by a property. A
      # count that zero fits is "did not" (or "at most"). Frozen.
      class Did < Condition
        def self.schema(_kind)
          own = %w[count measure window].to_h { |name| [name, Schema.reference(name.capitalize)] }
          Schema.object({ **Schema::SELECTION, **own })
        end

        def self.read(body, place, reading, _kind)
          selection = reading.selections.read(body, place)
          window = reading.fields.window(body["window"], "#{place}.window")
          asked = reading.how_much(body, selection, place)
          new(selection: selection, window: window, **asked) if selection && window && asked
        end

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

        # @return [Hash] plain JSON
        def to_h
          asked = measure ? { "measure" => measure.to_h } : { "count" => count.to_h }
          { "did" => { **selection.to_h, **asked, "window" => window.to_h } }
        end

        def parts(words)
          return measured_parts(words) if measure

          [*opening(words), *words.conditions(selection, "did"), words.window(window, "did")]
        end

        def denied(words)
          return unless count&.minimum == 1 && count.maximum.nil? && count.unit == "events"

          [words.plain("who have not"), words.events(selection, "did", done: false),
           *words.conditions(selection, "did"), words.window(window, "did")]
        end

        def evidence(evaluator) = measure ? DidEvidence.measured(self, evaluator) : DidEvidence.counted(self, evaluator)

        def costly? = count&.unit == "visits"

        private

        # Where zero fits, those with events are out unless their count fits too.
        def outside = count.expression(Polars.col("n")).is_not

        # Profile ids with at least one matching event whose count `n` satisfies the condition.
        def fitting(evaluator, condition)
          return selection.rows(evaluator, window)["profile_id"].unique if count.once? && count.unit == "events"

          counted(evaluator).filter(condition)["profile_id"]
        end

        # How often each did it; the same for every number asked for.
        def counted(evaluator)
          evaluator.remembered([:counted, selection.to_h, window.to_h, count.unit]) do
            by_visits = count.unit == "visits"
            rows = selection.rows(evaluator, window, beside: by_visits ? %w[visit_start] : []).lazy
            rows = rows.filter(Polars.col("visit_start").is_not_null) if by_visits
            rows.group_by("profile_id").agg([unit.alias("n")]).collect
          end
        end

        # Days, weeks and visits never fall from one row of a person to the next, so each counts where it differs from
        # the row before.
        def unit
          return Polars.len if count.unit == "events"

          column = { "days" => Polars.col("day"), "weeks" => Calendar.weeks(Polars.col("day")),
                     "visits" => Polars.col("visit_start") }.fetch(count.unit)
          column.ne_missing(column.shift(1)).sum
        end

        def measured(evaluator)
          rows = selection.rows(evaluator, window, property: measure.property)
          mask = evaluator.membership(measure.fitting(rows, evaluator.calendar))
          return mask unless measure.nothing_fits?

          valued = rows.filter(Polars.col("value").is_not_null)["profile_id"]
          mask | evaluator.invert(evaluator.membership(valued))
        end

        def opening(words)
          if count.none?
            return [words.plain("who have"), words.part("not", "what", "count", "did"),
                    words.events(selection, "did", done: false)]
          end

          [words.plain("who"), words.events(selection, "did"), words.part(Wording.count(count), "what", "count", "did")]
        end

        def measured_parts(words)
          [words.plain("who"), *words.selected(selection, "did"), words.window(window, "did"), words.plain("and whose"),
           *words.measured(measure, selection, "did")]
        end
      end
    end
  end
end
