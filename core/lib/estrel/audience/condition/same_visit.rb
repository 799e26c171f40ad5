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

        # The visits of each selection never fall from row to row, so repeats are dropped by looking at the row before;
        # a visit that all of them have stands as often as there are selections.
        #
        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          visit = Polars.col("visit")
          visits = selections.map do |selection|
            marked = evaluator.visits(window).marked(selection.rows(evaluator, window, keyed: true))
            marked.select(%w[profile_id visit]).filter(visit.ne_missing(visit.shift(1)))
          end
          all = visits.one? ? visits.first : Polars.concat(visits).sort("visit")
          evaluator.membership(all.filter(visit == visit.shift(selections.size - 1))["profile_id"])
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

        # By the start of each visit, the positions of what was done in it.
        def visits(evaluator)
          found = Hash.new { |hash, start| hash[start] = [] }
          selections.each_with_index do |selection, index|
            rows = evaluator.visits(window).marked(selection.rows(evaluator, window, keyed: true))
            rows["visit_start"].unique.to_a.each { |start| found[start] << index }
          end
          found
        end
      end
    end
  end
end
