# frozen_string_literal: true

module Estrel
  class Lifecycle
    # One person's way through the states: stretch by stretch, as known now and as it was known at the time, in figures,
    # and what comes next if nothing happens.
    class PersonHistory
      # @param lifecycle [Lifecycle] over the part of a ledger that is this person's
      # @param as_of [Date]
      def initialize(lifecycle, as_of)
        @lifecycle = lifecycle
        @as_of = as_of
        @last = Calendar.number(as_of)
      end

      # @return [Hash] plain JSON: `stretches` (state, from, to), `revised` (from, to, state then, state now),
      #   `spells`, `reactivations` (from dormant or churned), `longest_gap` (days, until today or between two
      #   activities), `since` (when the present state began), `next` (state and date, if nothing happens)
      def to_h
        { stretches: described(now), revised: revised, spells: spells.size, reactivations: [spells.size - 1, 0].max,
          longest_gap: longest_gap, since: now.empty? ? nil : Calendar.date(now.last[1]), next: following }
      end

      private

      # Spells begun by the as-of date.
      def spells = @spells ||= @lifecycle.spells.filter(Polars.col("start") <= @last).rows(named: true)

      def keys = @keys ||= @lifecycle.activity["key"].to_a.map { |key| key % Spells::DAY }.select { |day| day <= @last }

      # Stretches as [state, first day, last day], up to the as-of date.
      def now = @now ||= keys.empty? ? [] : stretches(@lifecycle.edges(steps, Grouping.everybody(@lifecycle.ledger)))

      def then_known
        ids = @lifecycle.ledger.profiles["profile_id"]
        stretches(ReceivedThen.new(@lifecycle).edges(ids, steps, true, false))
      end

      def steps = @steps ||= Steps.covering("day", Calendar.date(keys.first), @as_of)

      def stretches(edges)
        rows = edges.stretches.rows(named: true).map do |row|
          [SEEN_STATES[row["state"]], steps.days[row["from"]], steps.days[row["to"] - 1]]
        end
        runs = rows.chunk_while { |one, other| one[0] == other[0] && one[2] + 1 == other[1] }
        runs.map { |run| [run[0][0], run[0][1], run[-1][2]] }
      end

      def described(list)
        list.map { |state, from, to| { state: state, from: Calendar.date(from), to: Calendar.date(to) } }
      end

      # Runs of days on which another state was known at the time than now.
      def revised
        return [] if keys.empty?

        before = by_day(then_known)
        after = by_day(now)
        days = (keys.first..@last).reject { |day| before[day] == after[day] }
        runs = days.chunk_while do |one, other|
          other == one + 1 && before[one] == before[other] && after[one] == after[other]
        end
        runs.map do |run|
          { from: Calendar.date(run.first), to: Calendar.date(run.last), then: before.fetch(run.first, "never_active"),
            now: after.fetch(run.first, "never_active") }
        end
      end

      def by_day(list) = list.flat_map { |state, from, to| (from..to).map { |day| [day, state] } }.to_h

      def longest_gap
        return if keys.empty?

        [*keys, @last].each_cons(2).map { |one, other| other - one }.max || 0
      end

      def following
        return if keys.empty?

        rule_set = @lifecycle.rule_set
        last = keys.last
        ahead = { "dormant" => last + rule_set.active_within, "churned" => last + rule_set.churned_after }
        grown = keys.first + rule_set.new_for
        ahead = { "active" => grown, **ahead } if grown < ahead["dormant"]
        state, day = ahead.find { |_, at| at > @last }
        state && { state: state, on: Calendar.date(day) }
      end
    end
  end
end
