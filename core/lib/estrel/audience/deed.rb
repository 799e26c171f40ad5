# frozen_string_literal: true

module Estrel
  module Audience
    # What somebody did inside one visit: selected events, counted, or measured by a property. A deed that nothing fits
    # ("not at all", "at most twice", "in all less than 5") holds for visits without such events too. Frozen.
    class Deed
      # What tells a visit apart.
      KEY = %w[profile_id visit_start].freeze

      # @param body [Hash] a selection, and `count` or `measure`
      # @param place [String]
      # @param reading [Reading]
      # @return [Deed, nil] nil where a fault was found
      def self.read(body, place, reading)
        selection = reading.selections.read(body, place)
        asked = reading.how_much(body, selection, place)
        return unless selection && asked
        return new(selection, **asked) unless asked[:count] && asked[:count].unit != "events"

        reading.fault("#{place}.count.of", "within a visit, only times can be counted")
      end

      # @return [Selection]
      attr_reader :selection
      # @return [Count, nil] nil where something is measured
      attr_reader :count
      # @return [Measure, nil]
      attr_reader :measure

      def initialize(selection, count: nil, measure: nil)
        @selection = selection
        @count = count
        @measure = measure
        freeze
      end

      # @return [Boolean] whether a visit without such events fits
      def nothing_fits? = measure ? measure.nothing_fits? : count.zero_fits?

      # The visits that are told apart by it: those that fit, or, where nothing fits too, those that do not.
      #
      # @param evaluator [Evaluator]
      # @param window [Window] of the events
      # @param key [Array<String>] what of {KEY} is wanted
      # @return [Polars::LazyFrame] the key and {Ledger::Timeline#visit_number}, a row each, in their order
      def visits(evaluator, window, key: KEY)
        number = evaluator.timeline.visit_number
        rows = selection.rows(evaluator, window, property: measure&.property, beside: %w[visit_start]).lazy
        rows = rows.filter(Polars.col("visit_start").is_not_null)
        told_apart(rows, key, number, evaluator.calendar)
      end

      # @return [Hash] plain JSON
      def to_h
        { **selection.to_h, "count" => (count.to_h unless once? || measure), "measure" => measure&.to_h }.compact
      end

      # @param words [Phrases]
      # @param path [String]
      # @return [Array<Hash>] "ended a ride at least 3 times"
      def parts(words, path)
        done = words.beside(selection, path)
        return [*done, words.plain("whose"), *words.measured(measure, selection, path)] if measure
        return done if once?
        return not_done(words, path) if count.none?

        [words.events(selection, path), words.part(Wording.count(count), "what", "count", path),
         *words.conditions(selection, path)]
      end

      private

      def once? = measure.nil? && count.once? && !count.zero_fits?

      def not_done(words, path)
        [words.plain("have"), words.part("not", "what", "count", path), words.events(selection, path, done: false),
         *words.conditions(selection, path)]
      end

      def told_apart(rows, key, number, calendar)
        names = number.map { |column| column.meta.output_name }
        # Visits follow each other, so each begins where it differs from the row before.
        return rows.select([*key, *number]).filter(Visits.same(names, 1).is_not) if count&.once?

        rows = rows.with_columns(number)
        if measure
          found = measure.taken(rows, by: [*key, *names])
          fits = measure.comparison.expression(Polars.col("m"), calendar)
        else
          found = rows.group_by([*key, *names]).agg([Polars.len.alias("n")])
          fits = count.expression(Polars.col("n"))
        end
        found.lazy.filter(nothing_fits? ? fits.is_not : fits).select([*key, *names]).sort(names)
      end
    end
  end
end
