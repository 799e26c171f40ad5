# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *changed*: an attribute took on another value inside a window, from and to certain values where they are named.
      # The first value there is counts as a change from not set. Frozen.
      class Changed < Condition
        def self.schema(_kind)
          Schema.object({ "name" => Schema.reference("Name"), "from" => Schema.reference("Comparison"),
                          "to" => Schema.reference("Comparison"), "window" => Schema.reference("Window") },
                        required: %w[name])
        end

        def self.read(body, place, reading, _kind)
          field = reading.attribute(body, place) or return
          window = reading.fields.window(body["window"], "#{place}.window") or return
          ends = %w[from to].filter_map do |name|
            body[name] && [name.to_sym, reading.fields.comparison(body[name], field, "#{place}.#{name}")]
          end
          new(field, window, **ends.to_h)
        end

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

        # @return [Hash] plain JSON
        def to_h
          { "changed" => { "name" => field.name, "from" => from&.to_h, "to" => to&.to_h,
                           "window" => window.to_h }.compact }
        end

        def parts(words)
          ends = { "from" => from, "to" => to }.select { |_, comparison| comparison }
          said = ends.flat_map do |word, comparison|
            [words.plain("#{word} a value that"),
             *words.comparison(comparison, "who", "changed.#{word}", { attribute: field.name })]
          end
          [words.plain("whose"), words.attribute(field.name, "changed"),
           words.part("changed", "what", "changed", "changed"), *said, words.window(window, "changed")]
        end

        def evidence(evaluator)
          rows = Facts.steps(evaluator, field.name, field.type)
          called = evaluator.names.attribute(field.name)
          facts = rows.last(Facts::MOST).reverse.map do |row|
            { what: "#{called} went from #{Facts.said(row["text_before"])} to #{Facts.said(row["text"])}",
              at: row["occurred_at"] }
          end
          changed = rows.empty? ? "was never set" : "has changed #{English.times(rows.size)}"
          { found: "#{called} #{changed}", facts: facts, more: [rows.size - Facts::MOST, 0].max }
        end
      end
    end
  end
end
