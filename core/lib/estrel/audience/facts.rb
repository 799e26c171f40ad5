# frozen_string_literal: true

module Estrel
  module Audience
    # What conditions tell of one person, see {Condition#evidence}.
    module Facts
      MOST = 5

      module_function

      # @param events [Array<Hash>] of {Selection#events_of}
      # @param names [Names]
      # @param property [String, nil] whose value is told
      # @return [Hash{Symbol => Object}] the newest of them as facts, and how many more there are
      def events(events, names, property: nil)
        facts = events.last(MOST).reverse.map do |event|
          value = ", #{told(names, property, event)}" if property
          { what: "#{names.done(event[:type])}#{value}", at: event[:at] }
        end
        { facts: facts, more: [events.size - MOST, 0].max }
      end

      def told(names, property, event)
        type = [event[:type]]
        "#{names.property(property, type)} #{names.said(names.property_field(property, type), event[:value])}"
      end
      private_class_method :told

      # @param evaluator [Evaluator]
      # @param field [String] name of an attribute
      # @param type [String]
      # @return [Array<Hash>] each value it has had, with the one before it
      def steps(evaluator, field, type)
        rows = evaluator.attribute_steps(field, type).rows(named: true)
        rows = rows.reject { |row| row["text"] == row["text_before"] }
        return rows unless type == "time"

        days = ->(text) { text && evaluator.calendar.day_of(Integer(text)).iso8601 }
        rows.map { |row| row.merge("text" => days.call(row["text"]), "text_before" => days.call(row["text_before"])) }
      end

      # @param text [String, nil] a value
      # @return [String]
      def said(text) = text.nil? ? "not set" : English.quoted(text)

      # @return [String] "3 days"
      def number(count, word) = "#{English.number(count)} #{count == 1 ? word : "#{word}s"}"
    end
  end
end
