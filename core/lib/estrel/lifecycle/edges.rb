# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Stretches of days with known first and last activity, cut at a sequence of dates: for each, between which of the
    # dates the person is new, active, dormant and churned. From this, counts and movements between all of the dates are
    # one pass, however many dates there are.
    #
    # The frame has one row per stretch, by profile and time: `profile_id`, `group` (number of the group the person
    # belongs to), and five edges `e0` to `e4`, each the number of a date: new from e0 to before e1, active from e1 to
    # before e2, dormant from e2 to before e3, churned from e3 to before e4; `returned`: marked as returned from e0 to
    # before it.
    class Edges
      STATES = SEEN_STATES
      NAMES = %w[e0 e1 e2 e3 e4].freeze

      # @param spells [Polars::DataFrame] see {Spells#all}
      # @param policy [Policy]
      # @param steps [Steps]
      # @param grouping [Grouping]
      # @return [Edges]
      def self.of_spells(spells, policy, steps, grouping)
        start, last, following, first = %w[start last next_start first_day].map { |name| Polars.col(name) }
        came_back = Polars.when(start > first).then(start + policy.active_within).otherwise(start)
        new(cut(grouping.spread(spells), policy, steps,
                from: start, to: following, first: first, last: last, returned: came_back), steps, grouping.size)
      end

      # @param stretches [Polars::DataFrame] with `profile_id` and `group`
      # @param from [Polars::Expr] first day of each stretch
      # @param to [Polars::Expr] the day after it
      # @param first [Polars::Expr] the person's first activity, as far as known
      # @param last [Polars::Expr] the person's last activity, as far as known
      # @param returned [Polars::Expr, nil] the day from which the mark no longer stands
      # @return [Polars::DataFrame] of edges
      def self.cut(stretches, policy, steps, from:, to:, first:, last:, returned: nil)
        dormant = last + policy.active_within
        new_until = Polars.min_horizontal([first + policy.new_for, dormant])
        edges = [from, new_until, dormant, last + policy.churned_after, to].map { |day| day.clip(from, to) }
        edges << (returned || from).clip(from, to)
        columns = edges.zip([*NAMES, "returned"]).map { |day, name| steps.index(day).alias(name) }
        cut = stretches.lazy.select([Polars.col("profile_id"), Polars.col("group"), *columns])
        cut.filter(Polars.col("e0") < Polars.col("e4")).collect
      end

      # @param frame [Polars::DataFrame]
      # @param steps [Steps]
      # @param groups [Integer] how many there are
      def initialize(frame, steps, groups)
        @frame = frame
        @steps = steps
        @groups = groups
      end

      # @return [Array<Hash{String => Array<Integer>}>] per group and state of {STATES}, and for "returned", one count
      #   per date
      def counts
        reached = [*NAMES, "returned"].to_h { |name| [name, reached(name)] }
        Array.new(@groups) do |group|
          states = STATES.each_with_index.to_h do |state, index|
            [state, minus(reached[NAMES[index]][group], reached[NAMES[index + 1]][group])]
          end
          states.merge("returned" => minus(reached["e0"][group], reached["returned"][group]))
        end
      end

      # @return [Array<Array<Hash{Array(String, String) => Integer}>>] per group and period the people per state before
      #   and state after; those unseen at both ends are left out
      def movements
        found = Array.new(@groups) { Array.new(@steps.size - 1) { Hash.new(0) } }
        stayed(found)
        changed.rows.each do |group, period, from, to, people|
          found[group][period][[STATES[from] || "unseen", STATES[to]]] += people
        end
        found
      end

      # @return [Polars::DataFrame] one row per state a person is in at one of the dates or more, by person and time:
      #   profile_id, group, state (position in {STATES}), from and to (numbers of the first date and of the one after the
      #   last)
      def stretches
        @stretches ||= begin
          lists = [NAMES[..3], NAMES[1..]].zip(%w[from to]).map { |names, as| Polars.concat_list(names).alias(as) }
          long = @frame.select([Polars.col("profile_id"), Polars.col("group"), *lists]).explode(%w[from to])
          states = Polars.arange(0, long.height, eager: true) % STATES.size
          long.with_columns([states.cast(Polars::Int32).alias("state")]).filter(Polars.col("from") < Polars.col("to"))
        end
      end

      private

      def minus(ones, others) = ones.zip(others).map { |one, other| one - other }

      # How many have reached an edge by each date, per group.
      def reached(name)
        totals = Array.new(@groups) { Array.new(@steps.size, 0) }
        @frame.lazy.group_by(["group", name]).agg([Polars.len.alias("n")]).collect.rows.each do |group, at, people|
          totals[group][at] += people if at < @steps.size
        end
        totals.map { |steps| running(steps) }
      end

      def running(steps)
        total = 0
        steps.map { |step| total += step }
      end

      # Those who are in one state at several dates in a row stay in it over the periods between.
      def stayed(found)
        long = stretches.filter(Polars.col("to") - Polars.col("from") >= 2)
        starts, ends = [Polars.col("from"), Polars.col("to") - 1].map do |at|
          steps = Hash.new { |hash, key| hash[key] = Array.new(@steps.size, 0) }
          long.lazy.group_by(["group", "state", at.alias("at")]).agg([Polars.len.alias("n")]).collect.rows
              .each { |group, state, period, people| steps[[group, state]][period] += people }
          steps
        end
        starts.each do |(group, state), steps|
          staying = minus(running(steps), running(ends[[group, state]]))
          staying.each_with_index do |people, period|
            found[group][period][[STATES[state]] * 2] += people if people.positive?
          end
        end
      end

      # Where one state follows another between two neighbouring dates; -1 stands for unseen.
      def changed
        profile, from, to, state = %w[profile_id from to state].map { |name| Polars.col(name) }
        onward = profile == profile.shift(-1)
        first = profile.ne_missing(profile.shift(1)) & (from >= 1)
        pair = lambda { |period, before, after|
          [Polars.col("group"), period.alias("period"), before.alias("before"), after.alias("after")]
        }
        unseen = Polars.lit(STATES.size).cast(Polars::Int32)
        later = stretches.with_columns([onward.alias("onward"), state.shift(-1).alias("then")])
                         .filter(Polars.col("onward")).select(pair.call(to - 1, state, Polars.col("then")))
        joining = stretches.with_columns([first.alias("first")]).filter(Polars.col("first"))
                           .select(pair.call(from - 1, unseen, state))
        Polars.concat([later,
                       joining]).lazy.group_by(%w[group period before after]).agg([Polars.len.alias("n")]).collect
      end
    end
  end
end
