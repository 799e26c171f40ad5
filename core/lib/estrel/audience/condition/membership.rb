# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *in another audience*: whoever is in it as of the same date, or was in it as of an earlier one. Frozen.
      class Membership < Condition
        def self.schema(_kind)
          Schema.object({ "id" => Schema.whole(1..(2**53)), "on" => Schema.reference("Date") }, required: %w[id])
        end

        def self.read(body, place, reading, _kind)
          found = reading.audience(body["id"]) or
            return reading.fault("#{place}.id", "there is no audience with the number #{body["id"]}")
          return reading.fault("#{place}.id", found.fault) if found.fault

          on = body["on"] && reading.fields.day(body["on"], "#{place}.on")
          new(body["id"], found.name, found.definition, on: on) if on || !body.key?("on")
        end

        # @return [Integer] id of the audience
        attr_reader :audience
        # @return [String]
        attr_reader :name
        # @return [Definition]
        attr_reader :definition
        # @return [Date, nil] "were on"
        attr_reader :on

        def initialize(audience, name, definition, on: nil)
          @audience = audience
          @on = on
          @name = name.dup.freeze
          @definition = definition
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          return evaluator.mask(definition.root) unless on

          then_on = evaluator.at([on, evaluator.as_of].min)
          then_on.seen(then_on.as_of) & then_on.mask(definition.root)
        end

        # @return [Object] names what is computed completely: not the number, behind which another definition may stand
        #   tomorrow
        def key = on ? [on, definition.root.key] : definition.root.key

        # @return [Hash] plain JSON
        def to_h = { "audience" => { "id" => audience, "on" => on&.iso8601 }.compact }

        def parts(words) = said(words, on ? "who were in" : "who are in")

        def denied(words) = said(words, on ? "who were not in" : "who are not in")

        def evidence(_evaluator) = { found: on && "As of #{English.date(on)}" }

        def explained(_place)
          on ? [] : definition.conditions.each_with_index.map { |inner, index| [definition.place(index), inner] }
        end

        def costly? = definition.root.costly?

        private

        def said(words, opening)
          name = words.part(English.quoted(self.name), "who", "audience", "audience")
          date = words.part("on #{English.date(on)}", "when", "audience", "audience") if on
          [words.plain(opening), name, date].compact
        end
      end
    end
  end
end
