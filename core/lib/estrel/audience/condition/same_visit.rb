# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *within one visit*: something of every selection happened inside one and the same visit. Frozen.
      class SameVisit < Condition
        def self.schema(_kind)
          selections = Schema.list("maxItems" => 20, "items" => Schema.reference("Selection"))
          Schema.object({ "all" => selections, "window" => Schema.reference("Window") }, required: %w[all])
        end

        def self.read(body, place, reading, _kind)
          selections = body["all"].each_with_index.map do |row, index|
            reading.selections.read(row, "#{place}.all[#{index}]")
          end
          window = reading.fields.window(body["window"], "#{place}.window")
          new(selections, window) if window && selections.all?
        end

        # @return [Array<Selection>]
        attr_reader :selections
        # @return [Window]
        attr_reader :window

        def initialize(selections, window)
          @selections = selections.freeze
          @window = window
          freeze
        end

        # Repeats of a visit are dropped by looking at the row before; one that all selections have then stands as often
        # as there are selections.
        #
        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          number = evaluator.timeline.visit_number
          found = selections.map do |selection|
            rows = visited(evaluator, selection).lazy.select([Polars.col("profile_id"), *number])
            rows.filter(same(number, 1).is_not)
          end
          all = found.one? ? found.first : Polars.concat(found).sort(number.map { |column| column.meta.output_name })
          evaluator.membership(all.filter(same(number, selections.size - 1)).collect["profile_id"])
        end

        # @return [Hash] plain JSON
        def to_h = { "visit" => { "all" => selections.map(&:to_h), "window" => window.to_h } }

        def parts(words)
          events = selections.each_with_index.flat_map do |selection, index|
            [words.plain("and"), *words.beside(selection, "visit.all[#{index}]")]
          end
          [words.plain("who"), *events.drop(1), words.part("within one visit", "when", "visit", "visit"),
           words.window(window, "visit")]
        end

        def evidence(evaluator)
          start, best = visits(evaluator).max_by { |visit, found| [found.size, visit] }
          return { found: "nothing of it", nearness: 0.0 } unless start

          { found: "#{best.size} of #{selections.size} in the best visit", nearness: best.size.fdiv(selections.size),
            facts: [{ what: "a visit began", at: start }] }
        end

        def costly? = true

        private

        # What was selected and belongs to a visit.
        def visited(evaluator, selection)
          rows = selection.rows(evaluator, window, beside: %w[visit_start])
          rows.filter(Polars.col("visit_start").is_not_null)
        end

        # Whether a row is of the same visit as one of the rows before.
        def same(number, rows)
          number.map { |column| Polars.col(column.meta.output_name) }
                .map { |column| column.eq_missing(column.shift(rows)) }.reduce(:&)
        end

        # By the start of each visit, the positions of what was done in it.
        def visits(evaluator)
          found = Hash.new { |hash, start| hash[start] = [] }
          selections.each_with_index do |selection, index|
            rows = visited(evaluator, selection)
            rows["visit_start"].unique.to_a.each { |start| found[start] << index }
          end
          found
        end
      end
    end
  end
end
