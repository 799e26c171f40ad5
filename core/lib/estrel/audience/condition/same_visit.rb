# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *within one visit*: everything listed happened inside one and the same visit, as often or as much as is asked of
      # each. Frozen.
      class SameVisit < Condition
        def self.schema(_kind)
          deeds = Schema.list("maxItems" => 20, "items" => Schema.reference("Deed"))
          Schema.object({ "all" => deeds, "window" => Schema.reference("Window") }, required: %w[all])
        end

        def self.read(body, place, reading, _kind)
          deeds = body["all"].each_with_index.map { |row, index| Deed.read(row, "#{place}.all[#{index}]", reading) }
          window = reading.fields.window(body["window"], "#{place}.window")
          return unless window && deeds.all?
          return new(deeds, window) unless deeds.all?(&:nothing_fits?)

          reading.fault("#{place}.all", "add at least one event that happened in the visit")
        end

        # @return [Array<Deed>]
        attr_reader :deeds
        # @return [Window] of what was done
        attr_reader :window

        def initialize(deeds, window)
          @deeds = deeds.freeze
          @window = window
          freeze
        end

        # A visit that all deeds are done in stands as often as there are deeds.
        #
        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          without, with = deeds.partition(&:nothing_fits?)
          number = evaluator.timeline.visit_number.map { |column| column.meta.output_name }
          found = with.map { |deed| deed.visits(evaluator, window, key: ["profile_id"]) }
          all = found.one? ? found.first : Polars.concat(found).sort(number)
          all = all.filter(Visits.same(number, with.size - 1)) if with.size > 1
          all = without.reduce(all) { |left, deed| left.join(deed.visits(evaluator, window), on: number, how: "anti") }
          evaluator.membership(all.collect["profile_id"])
        end

        # @return [Hash] plain JSON
        def to_h = { "visit" => { "all" => deeds.map(&:to_h), "window" => window.to_h } }

        def parts(words)
          done = deeds.each_with_index.flat_map do |deed, index|
            [words.plain("and"), *deed.parts(words, "visit.all[#{index}]")]
          end
          [words.plain("who"), *done.drop(1), words.part("within one visit", "when", "visit", "visit"),
           words.window(window, "visit")]
        end

        def evidence(evaluator)
          start, best = visits(evaluator).max_by { |visit, fitting| [fitting, visit] }
          return { found: "none of these", nearness: 0.0 } unless start

          { found: "#{best} of #{deeds.size} in the best visit", nearness: best.fdiv(deeds.size),
            facts: [{ what: "visit started", at: start }] }
        end

        def costly? = true

        private

        # By the start of each visit in which something was done, how many of the deeds fit.
        def visits(evaluator)
          starts = deeds.map { |deed| deed.visits(evaluator, window).collect["visit_start"].to_a }
          starts.flatten.uniq.to_h do |start|
            [start, deeds.zip(starts).count { |deed, found| found.include?(start) != deed.nothing_fits? }]
          end
        end
      end
    end
  end
end
