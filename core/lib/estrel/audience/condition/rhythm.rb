# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *rhythm*: selected events at least so many times in each, or in some, of the last calendar weeks or months that
      # had ended by the as-of date. Weeks start on Monday. Frozen.
      class Rhythm < Condition
        UNITS = %w[week month].freeze

        def self.schema(_kind)
          own = { "times" => Schema.whole(1..1_000_000), "each" => { "enum" => UNITS }, "last" => Schema.whole(1..520),
                  "in" => Schema.whole(1..520) }
          Schema.object({ **Schema::SELECTION, **own }, required: %w[each last])
        end

        def self.read(body, place, reading, _kind)
          selection = reading.selections.read(body, place) or return
          needed = body.fetch("in", body["last"])
          if needed > body["last"]
            return reading.fault("#{place}.in", "enter at most #{English.counted(body["last"], body["each"])}")
          end

          new(selection: selection, times: body.fetch("times", 1), unit: body["each"], periods: body["last"],
              needed: needed)
        end

        # @return [Selection]
        attr_reader :selection
        # @return [Integer] times in a period
        attr_reader :times
        # @return [String] of {UNITS}
        attr_reader :unit
        # @return [Integer] how many periods are looked at
        attr_reader :periods
        # @return [Integer] in how many of them it must hold
        attr_reader :needed

        def initialize(selection:, times:, unit:, periods:, needed:)
          @selection = selection
          @times = times
          @unit = unit
          @periods = periods
          @needed = needed
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          from, to = range(evaluator.as_of)
          rows = selection.rows(evaluator, Window.new(from: from, to: to))
          kept = rows.lazy.with_columns([period.alias("period")]).group_by(%w[profile_id period])
                     .agg([Polars.len.alias("n")]).filter(Polars.col("n") >= times)
                     .group_by("profile_id").agg([Polars.len.alias("periods")]).filter(Polars.col("periods") >= needed)
          evaluator.membership(kept.select("profile_id").collect["profile_id"])
        end

        # The first and last day of the periods looked at.
        #
        # @param as_of [Date]
        # @return [Array(Date, Date)]
        def range(as_of)
          if unit == "week"
            after = as_of + 1 - ((as_of + 1).cwday - 1)
            [after - (7 * periods), after - 1]
          else
            after = Date.new((as_of + 1).year, (as_of + 1).month, 1)
            [after << periods, after - 1]
          end
        end

        # @param date [Date]
        # @return [Date] the first day of the week or month the date lies in
        def period_of(date) = unit == "week" ? date - (date.cwday - 1) : Date.new(date.year, date.month, 1)

        # @return [Hash] plain JSON
        def to_h
          { "rhythm" => { **selection.to_h, "times" => times, "each" => unit, "last" => periods, "in" => needed } }
        end

        def parts(words)
          return [*said(words), words.part("in the last #{unit}", "when", "rhythm", "rhythm")] if periods == 1

          each = needed == periods ? "in each" : "in #{needed}"
          [*said(words), words.part("#{each} of the last #{periods} #{unit}s", "when", "rhythm", "rhythm")]
        end

        def evidence(evaluator)
          from, to = range(evaluator.as_of)
          events = selection.events_of(evaluator, Window.new(from: from, to: to))
          per_period = events.map { |event| period_of(Calendar.date(event[:day])) }.tally
          kept = per_period.count { |_, done| done >= times }
          did = evaluator.names.events(selection.events)
          { found: "#{did} in #{kept} of #{periods} #{unit}s", asked: "in #{needed}",
            nearness: kept.fdiv(needed), **Facts.events(events, evaluator.names) }
        end

        private

        def said(words)
          [words.plain("who"), *words.selected(selection, "rhythm"),
           words.part("at least #{English.times(times)}", "what", "rhythm", "rhythm")]
        end

        def period
          return Calendar.weeks(Polars.col("day")) if unit == "week"

          date = Polars.col("day").cast(Polars::Date)
          (date.dt.year.cast(Polars::Int32) * 12) + date.dt.month.cast(Polars::Int32)
        end
      end
    end
  end
end
