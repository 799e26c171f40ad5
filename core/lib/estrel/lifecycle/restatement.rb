# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How the counts of past dates have changed since: as known at the time against as known now, and why.
    #
    # The difference is split by making one thing after the other as it is now, always in this order: events that were
    # received after the date, people who were found to be one since, the catalogue, the policy. Each cause has what its
    # step changes, so the causes add up to the difference.
    class Restatement
      CAUSES = %w[late merged catalogue policy].freeze
      STATES = SEEN_STATES

      # What was in force at the end of a date. Compared by value.
      Rules = Struct.new(:policy, :catalogue)

      # One date: counts per state as known `before` (then) and `now`, and per cause what it changed.
      Row = Struct.new(:date, :before, :now, :causes, keyword_init: true) do
        # @return [Float] the largest change of a state, as a share of what it was then; 0 where it was nothing
        def moved = share(most_moved)

        # @return [String] the state with the largest change
        def most_moved = before.keys.max_by { |state| share(state) }

        # @return [String] what the change hints at
        def hint = HINTS.fetch(CAUSES.max_by { |name| causes[name].values.sum(&:abs) })

        private

        def share(state) = before[state].zero? ? 0.0 : (now[state] - before[state]).abs.fdiv(before[state])
      end

      HINTS = {
        "late" => "Mostly events received late: a source delivers late, or the threshold is shorter than its delay.",
        "merged" => "Mostly people who were found to be one since.",
        "catalogue" => "Mostly a change in the catalogue.", "policy" => "Mostly a change of the policy."
      }.freeze
      private_constant :HINTS

      # @param rows [Array<Row>]
      # @return [String] how many weeks have changed, and which the most
      def self.takeaway(rows)
        moved = rows.select { |row| row.moved.positive? }
        return "No week's count has changed since." if moved.empty?

        most = moved.max_by(&:moved)
        before, now = [most.before, most.now].map { |counts| Audience::Wording.number(counts[most.most_moved]) }
        "#{moved.size} of #{rows.size} weeks count differently now than they did then. Most of all " \
          "#{most.most_moved} on #{Audience::Wording.date(most.date)}: #{before} then, #{now} now. #{most.hint}"
      end

      # @param rules [Rules] in force now
      # @param past [#call] gives the {Rules} in force at the end of a date
      # @yield [policy] gives the {Lifecycle} under a policy
      def initialize(rules, past:, &lifecycle)
        @rules = rules
        @past = past
        @lifecycle = lifecycle
        @counts = {}
      end

      # @param steps [Steps]
      # @return [Array<Row>] one per date
      def rows(steps)
        steps.dates.each_with_index.map do |date, index|
          policy, catalogue = then_rules(date)
          now = @rules
          ladder = [[policy, catalogue, true, true], [policy, catalogue, false, true],
                    [policy, catalogue, false, false], [policy, now.catalogue, false, false],
                    [now.policy, now.catalogue, false, false]]
          told = ladder.map { |rung| at(steps, index, *rung) }
          causes = CAUSES.each_with_index.to_h do |cause, step|
            [cause, STATES.to_h do |state|
              [state, told[step + 1][state] - told[step][state]]
            end]
          end
          Row.new(date: date, before: told.first, now: told.last, causes: causes)
        end
      end

      private

      def then_rules(date)
        rules = @past.call(date)
        # Equal rules are the same ones, so that they are asked once.
        [rules.policy.key == @rules.policy.key ? @rules.policy : rules.policy,
         rules.catalogue.to_h == @rules.catalogue.to_h ? @rules.catalogue : rules.catalogue]
      end

      def at(steps, index, policy, catalogue, late, apart)
        key = [policy.key, catalogue.equal?(@rules.catalogue) ? nil : catalogue.to_h, late, apart]
        counts = @counts[key] ||= KnownThen.new(relabelled(policy, catalogue)).counts(steps, late: late, apart: apart)
        STATES.to_h { |state| [state, counts[state][index]] }
      end

      def relabelled(policy, catalogue)
        lifecycle = @lifecycle.call(policy)
        return lifecycle if catalogue.equal?(@rules.catalogue)

        Lifecycle.new(Ledger::Relabelled.new(lifecycle.ledger, catalogue), policy)
      end
    end
  end
end
