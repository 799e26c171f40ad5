# frozen_string_literal: true

module Estrel
  class BeforeAfter
    # What is measured: how often something was done, or the sum of one of its numbers. Frozen.
    class Measure
      # @param catalogue [Catalogue]
      # @param event [String] name of an event type
      # @param property [String, nil] name of a number; nil to count
      # @raise [Invalid]
      def initialize(catalogue, event, property = nil)
        type = catalogue.event_types[event] or
          raise Invalid, "no event type \"#{event}\"#{Catalogue.suggestion(event.to_s, catalogue.event_types.keys)}"
        unless property.nil? || type.properties[property]&.type == "number"
          raise Invalid, "#{event} has no property \"#{property}\" that is a number"
        end

        @event = event
        @property = property
        freeze
      end

      # @param evaluator [Audience::Evaluator]
      # @param first [Integer] day number
      # @param last [Integer] day number; none after the as-of date is looked at
      # @return [Polars::DataFrame] `profile_id`, `day` and `value`
      def events(evaluator, first, last)
        value = @property ? Polars.col(Ledger::Layout.property(@property)).fill_null(0.0) : Polars.lit(1.0)
        last = [last, Calendar.number(evaluator.as_of)].min
        evaluator.events(@event).lazy.filter(Polars.col("day").is_between(first, last))
                 .select([Polars.col("profile_id"), Polars.col("day"), value.alias("value")]).collect
      end

      # @return [String]
      def to_s = @property ? "the sum of #{@property} of #{@event}" : @event
    end
  end
end
