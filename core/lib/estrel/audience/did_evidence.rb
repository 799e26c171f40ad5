# frozen_string_literal: true

module Estrel
  module Audience
    # How often one person did something, or what a measure of it comes to, beside what is asked.
    module DidEvidence
      module_function

      # @param did [Condition::Did]
      # @param evaluator [Evaluator]
      # @return [Hash{Symbol => Object}] see {Condition#evidence}
      def counted(did, evaluator)
        events = did.selection.events_of(evaluator, did.window)
        reached = reached(did, events, evaluator)
        { found: said(did, reached, evaluator.names), asked: did.count.none? ? "never" : Wording.count(did.count),
          nearness: near_count(reached, did.count), **Facts.events(events, evaluator.names) }
      end

      # @param did [Condition::Did]
      # @param evaluator [Evaluator]
      # @return [Hash{Symbol => Object}] see {Condition#evidence}
      def measured(did, evaluator)
        measure = did.measure
        value = measured_value(did, evaluator)
        names = evaluator.names
        field = measure.field(did.selection, names)
        asked = "#{Wording.comparison(measure.comparison.operator)} #{Wording.values(measure.comparison, names,
                                                                                     field)}".strip
        value = value.round(4) if value.is_a?(Float)
        told = value.nil? ? "not set" : names.said(field, value)
        events = did.selection.events_of(evaluator, did.window, property: measure.property)
                    .reject { |event| event[:value].nil? }
        called = names.property(measure.property, did.selection.events)
        { found: "#{Wording::MEASURES.fetch(measure.kind)} #{called} #{told}", asked: asked,
          nearness: near_value(value, measure.comparison), **Facts.events(events, names, property: measure.property) }
      end

      # "ended a ride 3 times in the last 30 days", "has not ended a ride like that at any time"
      def said(did, reached, names)
        like = did.selection.where.empty? ? "" : " like that"
        window = Wording.window(did.window)
        return "has not #{names.events(did.selection.events, done: false)}#{like} #{window}" if reached.zero?

        how = { "events" => English.times(reached), "days" => "on #{Facts.number(reached, "day")}",
                "weeks" => "in #{Facts.number(reached, "week")}",
                "visits" => "in #{Facts.number(reached, "visit")}" }.fetch(did.count.unit)
        "#{names.events(did.selection.events)}#{like} #{how} #{window}"
      end
      private_class_method :said

      def reached(did, events, evaluator)
        case did.count.unit
        when "events" then events.size
        when "days" then events.map { |event| event[:day] }.uniq.size
        when "weeks" then events.map { |event| Calendar.weeks(event[:day]) }.uniq.size
        else
          rows = did.selection.rows(evaluator, did.window, beside: %w[visit_start])
          rows["visit_start"].drop_nulls.n_unique
        end
      end
      private_class_method :reached

      def measured_value(did, evaluator)
        rows = did.selection.rows(evaluator, did.window, property: did.measure.property)
        did.measure.taken(rows)["m"].to_a.first || Measure::OF_NOTHING[did.measure.kind]
      end
      private_class_method :measured_value

      def near_count(reached, count)
        return reached.fdiv(count.minimum) if reached < count.minimum

        count.maximum && reached > count.maximum ? (count.maximum + 1).fdiv(reached + 1) : 1.0
      end
      private_class_method :near_count

      def near_value(value, comparison)
        wanted = comparison.value
        return 0.0 unless value.is_a?(Numeric) && wanted.is_a?(Numeric) && value.positive? && wanted.positive?

        [value, wanted].min.fdiv([value, wanted].max)
      end
      private_class_method :near_value
    end
  end
end
