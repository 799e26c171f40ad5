# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *changed*: an attribute took on another value inside a window, from and to certain values where they are named.
      # The first value there is counts as a change from not set. Frozen.
      class Changed
        # @return [Catalogue::Field]
        attr_reader :field
        # @return [Window]
        attr_reader :window
        # @return [Comparison, nil] what it was before
        attr_reader :from
        # @return [Comparison, nil] what it was from then on
        attr_reader :to

        def initialize(field, window, from: nil, to: nil)
          @field = field
          @window = window
          @from = from
          @to = to
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          steps = evaluator.attribute_steps(field.name, field.type)
          steps = steps.join(evaluator.first_seen, on: "profile_id", how: "inner") if window.relative?
          condition = Polars.col("text").ne_missing(Polars.col("text_before")) &
                      window.expression(evaluator.as_of, evaluator.calendar)
          { from => "before", to => "value" }.each do |comparison, column|
            condition &= comparison.expression(Polars.col(column), evaluator.calendar) if comparison
          end
          evaluator.membership(steps.filter(condition)["profile_id"])
        end

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h
          { "changed" => { "name" => field.name, "from" => from&.to_h, "to" => to&.to_h,
                           "window" => window.to_h }.compact }
        end
      end
    end
  end
end
