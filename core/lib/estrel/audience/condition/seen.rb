# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *first seen*: whoever was first seen, with an event or an attribute, inside a window. Frozen.
      class Seen < Condition
        def self.schema(_key) = Schema.object({ "window" => Schema.reference("Window") }, required: %w[window])

        def self.read(body, place, reading, _key)
          window = reading.fields.window(body["window"], "#{place}.window") or return
          if window.relative?
            return reading.fault("#{place}.window", "choose a period that does not depend on the first-seen date")
          end

          new(window)
        end

        # @return [Window]
        attr_reader :window

        def initialize(window)
          @window = window
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          seen = { "first_seen_day" => "day", "first_seen_at" => "occurred_at" }
          rows = evaluator.ledger.profiles.select(seen.map { |name, as| Polars.col(name).alias(as) })
          rows.select([window.expression(evaluator.as_of, evaluator.calendar).alias("mask")])["mask"]
        end

        def apart?(other)
          return false unless other.is_a?(Seen) && [self, other].all? { |one| one.window.dates? }

          one, later = [window, other.window].sort_by { |window| window.from || Date.new(1, 1, 1) }
          !one.to.nil? && !later.from.nil? && one.to < later.from
        end

        # @return [Hash] plain JSON
        def to_h = { "seen" => { "window" => window.to_h } }

        def parts(words) = [words.plain("who were first seen"), words.window(window, "seen")]

        def denied(words) = [words.plain("who were not first seen"), words.window(window, "seen")]

        def evidence(evaluator)
          day = Calendar.date(evaluator.first_seen["first_seen_day"][0])
          { found: "first seen on #{English.date(day)}" }
        end
      end
    end
  end
end
