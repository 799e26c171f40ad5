# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Stretches of days with known first and last activity, cut at a sequence of dates: for each, between which of the
    # dates the person is new, active, dormant and churned. From this, counts and movements between all of the dates are
    # one pass, however many dates there are.
    #
    # The frame has one row per stretch, by profile and time: `profile_id`, `group` (number of the group the person
    # belongs to), and five edges `e0` to `e4`, each the number of a date: new from e0 to before e1, active from e1 to
    # before e2, dormant from e2 to before e3, churned from e3 to before e4; `reactivated`: marked as reactivated from
    # e0 to before it.
    class Edges
      STATES = SEEN_STATES
      NAMES = %w[e0 e1 e2 e3 e4].freeze
      # Where each of these states, and after them being never active, stands among {Lifecycle::STATES}.
      AMONG_ALL = [*STATES, "never_active"].map { |state| Lifecycle::STATES.index(state) }.freeze
      private_constant :AMONG_ALL

      # @param spells [Polars::DataFrame] see {Spells#all}
      # @param rule_set [RuleSet]
      # @param steps [Steps]
      # @param grouping [Grouping]
      # @return [Edges]
      def self.of_spells(spells, rule_set, steps, grouping)
        start, last, following, first = %w[start last next_start first_day].map { |name| Polars.col(name) }
        came_back = Polars.when(start > first).then(start + rule_set.active_within).otherwise(start)
        new(cut(grouping.spread(spells), rule_set, steps,
                from: start, to: following, first: first, last: last, reactivated: came_back), steps, grouping.size)
      end

      # @param stretches [Polars::DataFrame] with `profile_id` and `group`
      # @param from [Polars::Expr] first day of each stretch
      # @param to [Polars::Expr] the day after it
      # @param first [Polars::Expr] the person's first activity, as far as known
      # @param last [Polars::Expr] the person's last activity, as far as known
      # @param reactivated [Polars::Expr, nil] the day from which the mark no longer stands
      # @return [Polars::DataFrame] of edges
      def self.cut(stretches, rule_set, steps, from:, to:, first:, last:, reactivated: nil)
        dormant = last + rule_set.active_within
        new_until = Polars.min_horizontal([first + rule_set.new_for, dormant])
        edges = [from, new_until, dormant, last + rule_set.churned_after, to].map { |day| day.clip(from, to) }
        edges << (reactivated || from).clip(from, to)
        columns = edges.zip([*NAMES, "reactivated"]).map { |day, name| steps.index(day).alias(name) }
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

      # @return [Array<Hash{String => Array<Integer>}>] per group and state of {STATES}, and for "reactivated", one
      #   count per date
      def counts
        reached = [*NAMES, "reactivated"].to_h { |name| [name, reached(name)] }
        Array.new(@groups) do |group|
          states = STATES.each_with_index.to_h do |state, index|
            [state, minus(reached[NAMES[index]][group], reached[NAMES[index + 1]][group])]
          end
          states.merge("reactivated" => minus(reached["e0"][group], reached["reactivated"][group]))
        end
      end

      # @return [Array<Array<Array<Integer>>>] per group and period the people per state before and state after, see
      #   {Movement.nobody}; those never active at both ends are left out
      def movements
        found = Array.new(@groups) { Array.new(@steps.size - 1) { Movement.nobody } }
        STATES.each_index { |state| stayed(state, found) }
        changed.each do |code, people|
          rest, after = code.divmod(STATES.size)
          rest, before = rest.divmod(STATES.size + 1)
          group, period = rest.divmod(@steps.size)
          found[group][period][Movement.place(AMONG_ALL[before], AMONG_ALL[after])] += people
        end
        found
      end

      # @return [Polars::DataFrame] one row per state a person is in at one of the dates or more, by person and time:
      #   profile_id, group, state (position in {STATES}), from and to (numbers of the first date and of the one after
      #   the last)
      def stretches
        lists = [NAMES[..3], NAMES[1..]].zip(%w[from to]).map { |names, as| Polars.concat_list(names).alias(as) }
        long = @frame.select([Polars.col("profile_id"), Polars.col("group"), *lists]).explode(%w[from to])
        states = Polars.arange(0, long.height, eager: true) % STATES.size
        long.with_columns([states.cast(Polars::Int32).alias("state")]).filter(Polars.col("from") < Polars.col("to"))
      end

      private

      def minus(ones, others) = ones.zip(others).map { |one, other| one - other }

      # How many have reached an edge by each date, per group.
      def reached(name) = running(@frame, Polars.col(name))

      # An edge at no date is numbered after the last one.
      def running(frame, place)
        width = @steps.size + 1
        Tally.running(Tally.of(frame, (Polars.col("group") * width) + place), @groups, width).map { |sums| sums[..-2] }
      end

      # Those who are in one state at several dates in a row stay in it over the periods between.
      def stayed(state, found)
        from, to = NAMES[state, 2].map { |name| Polars.col(name) }
        long = @frame.filter(to - from >= 2).select([Polars.col("group"), from.alias("from"), (to - 1).alias("to")])
        starts, ends = %w[from to].map { |name| running(long, Polars.col(name)) }
        place = Movement.place(AMONG_ALL[state], AMONG_ALL[state])
        @groups.times do |group|
          minus(starts[group], ends[group]).each_with_index do |people, period|
            found[group][period][place] += people if people.positive?
          end
        end
      end

      # How often one state follows another between two neighbouring dates: within a stretch of days, from one to the
      # person's next, and from never active to the first.
      def changed
        rows = [*within, *between]
        codes = rows.map do |frame, before, after|
          frame.select([code(Polars.col("period"), before, after).cast(Polars::Int64).alias("code")])
        end
        Tally.of(Polars.concat(codes), Polars.col("code"))
      end

      def code(period, before, after)
        (((((Polars.col("group") * @steps.size) + period) * (STATES.size + 1)) + before) * STATES.size) + after
      end

      # From a state to a later one with nothing at a date between.
      def within
        edge = NAMES.map { |name| Polars.col(name) }
        (0...STATES.size).to_a.combination(2).map do |before, after|
          here, there = [before, after].map { |state| edge[state] < edge[state + 1] }
          there = here & (edge[before + 1] == edge[after]) & there
          [@frame.filter(there).select([Polars.col("group"), (edge[after] - 1).alias("period")]), Polars.lit(before),
           Polars.lit(after)]
        end
      end

      def between
        ends = first_and_last
        profile, start, stop = %w[profile_id e0 e4].map { |name| Polars.col(name) }
        onward = (profile == profile.shift(-1)).fill_null(false)
        later = ends.with_columns([onward.alias("onward"), Polars.col("first").shift(-1).alias("then"),
                                   (stop - 1).alias("period")]).filter(Polars.col("onward"))
        joining = ends.filter(profile.ne_missing(profile.shift(1)) & (start >= 1))
                      .with_columns([(start - 1).alias("period")])
        [[later, Polars.col("last"), Polars.col("then")], [joining, Polars.lit(STATES.size), Polars.col("first")]]
      end

      # Each stretch with the positions of the first and the last state it is in at a date.
      def first_and_last
        filled = STATES.each_index.map { |index| [Polars.col(NAMES[index]) < Polars.col(NAMES[index + 1]), index] }
        first, last = [filled.reverse, filled].map do |ordered|
          ordered.reduce(Polars.lit(0)) { |state, (there, index)| Polars.when(there).then(index).otherwise(state) }
        end
        @frame.select([*%w[profile_id group e0 e4].map do |name|
          Polars.col(name)
        end, first.alias("first"), last.alias("last")])
      end
    end
  end
end
