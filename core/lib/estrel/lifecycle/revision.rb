# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How the counts of past dates have changed since: as known at the time against as known now, and why.
    #
    # The difference is split by making one thing after the other as it is now, always in this order: events that were
    # received after the date, people who were found to be one since, the catalogue, the rule set. Each cause has what
    # its step changes, so the causes add up to the difference.
    class Revision
      CAUSES = %w[late merged catalogue rule_set].freeze
      STATES = SEEN_STATES
      # People below which a change counts by itself, not as a share.
      SMALL = 10

      # What the rules were at the end of a date. Compared by value.
      Rules = Struct.new(:rule_set, :catalogue)

      # One date: counts per state as known `before` (then) and `now`, and per cause what it changed.
      Row = Struct.new(:date, :before, :now, :causes, keyword_init: true) do
        # @return [Float] the largest change of a state, as a share of what it was then, or of {SMALL} where it was less
        def moved = share(most_moved)

        # @return [String] the state with the largest change
        def most_moved = before.keys.max_by { |state| share(state) }

        # @return [String] what the change of that state hints at
        def hint = HINTS.fetch(CAUSES.max_by { |name| causes[name][most_moved].abs })

        private

        def share(state) = (now[state] - before[state]).abs.fdiv([before[state], SMALL].max)
      end

      HINTS = {
        "late" => "Main cause: late events. A source delivers late, or the threshold is shorter than its delay.",
        "merged" => "Main cause: merged people.",
        "catalogue" => "Main cause: a catalogue change.", "rule_set" => "Main cause: a change of the lifecycle rules."
      }.freeze
      private_constant :HINTS

      # @param rules [Rules] of now
      # @param past [#call, nil] gives the {Rules} of a date's end; nil where they are those of now
      # @yield [rule_set] gives the {Lifecycle} under a rule set
      def initialize(rules, past:, &lifecycle)
        @rules = rules
        @past = past
        @lifecycle = lifecycle
        @counts = {}
      end

      # @param steps [Steps]
      # @return [Array<Array<Hash{String => Integer}>>] per date, people per state on each rung of the ladder from what
      #   what was known then to what is known now; adds up over the parts of a ledger
      def counts(steps)
        steps.dates.each_with_index.map do |date, index|
          rule_set, catalogue = then_rules(date)
          now = @rules
          ladder = [[rule_set, catalogue, true, true], [rule_set, catalogue, false, true],
                    [rule_set, catalogue, false, false], [rule_set, now.catalogue, false, false],
                    [now.rule_set, now.catalogue, false, false]]
          ladder.map { |rung| at(steps, index, *rung) }
        end
      end

      # @param counts [Array] of {#counts}
      # @param steps [Steps] the same
      # @return [Array<Row>] one per date
      def self.rows(counts, steps)
        steps.dates.zip(counts).map do |date, told|
          causes = CAUSES.zip(told.each_cons(2)).to_h do |cause, (before, after)|
            [cause, STATES.to_h { |state| [state, after[state] - before[state]] }]
          end
          Row.new(date: date, before: told.first, now: told.last, causes: causes)
        end
      end

      private

      def then_rules(date)
        return [@rules.rule_set, @rules.catalogue] unless @past

        rules = @past.call(date)
        # Equal rules are the same ones, so that they are asked once.
        [rules.rule_set.key == @rules.rule_set.key ? @rules.rule_set : rules.rule_set,
         rules.catalogue.to_h == @rules.catalogue.to_h ? @rules.catalogue : rules.catalogue]
      end

      def at(steps, index, rule_set, catalogue, late, apart)
        key = [rule_set.key, catalogue.equal?(@rules.catalogue) ? nil : catalogue.to_h, late, apart]
        counts = @counts[key] ||= ReceivedThen.new(relabelled(rule_set, catalogue)).counts(steps, late: late,
                                                                                                  apart: apart)
        STATES.to_h { |state| [state, counts[state][index]] }
      end

      def relabelled(rule_set, catalogue)
        lifecycle = @lifecycle.call(rule_set)
        return lifecycle if catalogue.equal?(@rules.catalogue)

        Lifecycle.new(Ledger::Relabelled.new(lifecycle.ledger, catalogue), rule_set)
      end
    end
  end
end
