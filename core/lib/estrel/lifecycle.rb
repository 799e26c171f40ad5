# frozen_string_literal: true

module Estrel
  # The state of every profile on a date, and the counts per state for every day of a range.
  #
  # A profile's activity days fall into {Spells}. A spell from its first day s to its last day l says everything: from s
  # the person is new or active, from l + active_within dormant, from l + churned_after churned, until the next spell.
  # Counting is therefore one pass over the spells, however many days are asked for.
  class Lifecycle
    STATES = %w[never_active new active dormant churned].freeze
    # The states a person who has shown activity can be in.
    SEEN_STATES = %w[new active dormant churned].freeze
    NEVER = Spells::NEVER
    # A day before every other.
    NEVER_SEEN = Polars.lit(-NEVER)
    private_constant :NEVER, :NEVER_SEEN

    # @return [RuleSet]
    attr_reader :rule_set
    # @return [Ledger::Readable] with the people the rule set is about
    attr_reader :ledger

    # @param ledger [Ledger::Readable]
    # @param rule_set [RuleSet]
    def initialize(ledger, rule_set)
      @ledger = ledger
      @rule_set = rule_set
      @spells = Spells.new(ledger, rule_set)
    end

    # Every profile's state at the end of a day.
    #
    # @param date [Date] the as-of date
    # @return [Polars::DataFrame] profile_id, state, reactivated, first_day, last_day, inactive_days; one row per
    #   profile in the order of the ledger's profiles; people first seen after the date are "never active"
    def states(date)
      day = Calendar.number(date)
      @ledger.cache.fetch([:states, @rule_set.key, day]) { compute_states(day) }
    end

    # How many people are in each state at the end of every day of a range.
    #
    # @param from [Date]
    # @param to [Date] included
    # @return [Hash{String => Array<Integer>}] per state of {STATES} one count per day; the states of a day add up to
    #   the people first seen by then
    # @raise [Steps::Invalid]
    def counts(from, to)
      steps = Steps.covering("day", from, to)
      found = series(steps, Grouping.everybody(ledger)).first
      STATES.to_h { |state| [state, found[state].drop(1)] }
    end

    # How many people of each group are in each state at each of some dates.
    #
    # @param steps [Steps]
    # @param grouping [Grouping]
    # @return [Array<Hash{String => Array<Integer>}>] per group, for each of {STATES} and for "reactivated", one count
    #   per date; the states of a date add up to the people of the group first seen by then
    def series(steps, grouping)
      remembered(:series, steps, grouping) do
        seen = grouping.seen(steps)
        edges(steps, grouping).counts.each_with_index.map do |counts, group|
          never_active = seen[group].each_with_index.map do |all, at|
            all - SEEN_STATES.sum do |state|
              counts[state][at]
            end
          end
          { "never_active" => never_active, **counts }
        end
      end
    end

    # How people of each group went from state to state between each two neighbouring dates.
    #
    # @param steps [Steps]
    # @param grouping [Grouping]
    # @return [Array<Array<Movement>>] per group and period
    def movements(steps, grouping)
      remembered(:movements, steps, grouping) do
        seen = grouping.seen(steps)
        edges(steps, grouping).movements.each_with_index.map do |periods, group|
          periods.each_with_index.map { |table, index| Movement.of(table, seen[group][index + 1]) }
        end
      end
    end

    # Remembers what is computed of some groups at some dates.
    #
    # @param what [Object] names it
    # @param steps [Object] {Steps}, or what else its `key` names
    # @param grouping [Grouping]
    # @yieldreturn [Object]
    # @return [Object]
    def remembered(what, steps, grouping, &)
      ledger.cache.fetch([what, rule_set.key, steps.key, grouping.key], &)
    end

    # Those asked for last are kept: they are counted in several ways.
    #
    # @param steps [Steps]
    # @param grouping [Grouping]
    # @return [Edges]
    def edges(steps, grouping)
      key = [steps.key, grouping.key]
      @edges = [key, Edges.of_spells(@spells.all, rule_set, steps, grouping)] unless @edges&.first == key
      @edges.last
    end

    # @return [Polars::DataFrame] see {Spells#all}
    def spells = @spells.all

    # @return [Polars::DataFrame] see {Spells#keys}
    def activity = @spells.keys

    # @return [Array<Polars::DataFrame>] see {Spells#rows}
    def activity_rows(columns = %w[profile_id day received_day]) = @spells.rows(columns)

    # @return [Hash{Integer => Integer}] people by the number of the day on which they were first active
    def firsts = Tally.of(spells.filter(Polars.col("start") == Polars.col("first_day")), Polars.col("start"))

    # @return [Polars::DataFrame] see {Spells#device_days}
    def device_days = @spells.device_days

    # @return [Devices] that activity came from
    def devices
      ledger.cache.fetch([:devices, rule_set.activity_key]) { Devices.of(device_days) }
    end

    # @param but [Polars::Series] devices that are left out
    # @return [Gaps] between the days activity came from each device
    def device_gaps(but)
      all = ledger.cache.fetch([:device_gaps, rule_set.activity_key]) { Gaps.of_devices(device_days, devices.all) }
      left_out = device_days.filter(Polars.col("device").is_in(but))
      left_out.height.zero? ? all : all - Gaps.of_devices(left_out)
    end

    # @param grouping [Grouping]
    # @return [Gaps] between the activity days of each person
    def gaps(grouping)
      ledger.cache.fetch([:gaps, rule_set.activity_key, grouping.key]) do
        rows = @spells.rows if grouping.whole?
        rows&.one? ? Gaps.of_days(rows.first) : Gaps.of(activity, grouping)
      end
    end

    # How many days each person was active on of the last days.
    #
    # @param date [Date]
    # @param days [Integer]
    # @return [Array<Integer>] people active on 1, 2, … of them
    def days_per_person(date, days)
      last = Calendar.number(date)
      recent = Polars.col("day").is_between(last - days + 1, last)
      keys = Spells.together(@spells.rows.map { |rows| Ledger::Layout.days(rows.filter(recent)) })
      key = Polars.col("key")
      each = keys.filter(key.ne_missing(key.shift(1))).select([key.floordiv(Spells::DAY).alias("profile_id")])
                 .group_by("profile_id").agg([Polars.len.alias("days")])
      counts = Tally.of(each, Polars.col("days"))
      Array.new(days) { |index| counts.fetch(index + 1, 0) }
    end

    # Every stretch of days a profile spends in one state, from before it was known to ever after.
    #
    # @param since [Date, nil] what lies before this day need not be right, but for the state on it; nil: all is right
    # @return [Polars::DataFrame] profile_id, state, from (day number), to (the day after), before (the state before;
    #   null for the first), before_reactivated (whether the person was marked as reactivated then), in no order
    def intervals(since)
      day = since && Calendar.number(since)
      @ledger.cache.fetch([:intervals, @rule_set.key, day]) do
        compute_intervals(day ? @spells.since(day) : @spells.all)
      end
    end

    private

    # What a stretch follows is known from the spells: a spell follows days of no activity yet or the inactive ones
    # after the spell before it; new comes first in a spell, then active, dormant and churned.
    def compute_intervals(spells)
      profile = Polars.col("profile_id")
      start, finish, following, first_day = %w[start last next_start first_day].map { |name| Polars.col(name) }
      earlier = Polars.when(profile == profile.shift(1)).then(finish.shift(1)).otherwise(nil)
      spells = spells.with_columns([spell_before(earlier, start).alias("spell_before")])
      dormant = finish + @rule_set.active_within
      churned = finish + @rule_set.churned_after
      grown = first_day + @rule_set.new_for
      opened = Polars.col("spell_before")
      before_active = either(grown > start, Polars.lit("new"), opened)
      before_dormant = either(grown < dormant, Polars.lit("active"), Polars.lit("new"))
      parts = [*never_active_stretches(spells),
               stretch(spells, "new", start, smaller(dormant, grown), opened),
               stretch(spells, "active", larger(start, grown), dormant, before_active),
               stretch(spells, "dormant", dormant, smaller(churned, following), before_dormant),
               stretch(spells, "churned", churned, following, Polars.lit("dormant"))]
      Polars.concat(parts)
    end

    # The state at the end of the day before a spell starts.
    def spell_before(earlier, start)
      inactive = start - 1 - earlier
      Polars.when(earlier.is_null).then(Polars.lit("never_active"))
            .when(inactive >= @rule_set.churned_after).then(Polars.lit("churned")).otherwise(Polars.lit("dormant"))
    end

    def stretch(spells, state, from, to, before = Polars.lit(nil).cast(Polars::String))
      spells.lazy.filter(from < to)
            .select([Polars.col("profile_id"), Polars.lit(state).alias("state"), from.cast(Polars::Int32).alias("from"),
                     to.cast(Polars::Int32).alias("to"), before.alias("before"),
                     marked_before(from, before).alias("before_reactivated")]).collect
    end

    # On the day before a stretch of days that is not the first of its spell: new or active, and reactivated lately.
    def marked_before(from, before)
      return Polars.lit(false) if from.equal?(NEVER_SEEN)

      start = Polars.col("start")
      marked = before.is_in(%w[new active]) & (start > Polars.col("first_day")) & (from > start) &
               (from - 1 - start < @rule_set.active_within)
      marked.fill_null(false)
    end

    # Up to the first activity, or for ever.
    def never_active_stretches(spells)
      first_day = Polars.col("first_day")
      strangers = @ledger.profiles.select(["profile_id"]).join(spells, on: "profile_id", how: "anti")
      [stretch(spells.filter(Polars.col("start") == first_day), "never_active", NEVER_SEEN, first_day),
       stretch(strangers, "never_active", NEVER_SEEN, Polars.lit(NEVER))]
    end

    def compute_states(day)
      known = @ledger.profiles.select(["profile_id"])
      joined = known.join(summary(day), on: "profile_id", how: "left")
      inactive = Polars.lit(day) - Polars.col("last_day")
      joined.with_columns([inactive.alias("inactive_days"), state_expression(day, inactive).alias("state")])
            .with_columns([reactivated_expression(day).alias("reactivated")])
            .select(%w[profile_id state reactivated first_day last_day inactive_days])
    end

    def state_expression(day, inactive)
      Polars.when(Polars.col("last_day").is_null).then(Polars.lit("never_active"))
            .when(inactive >= @rule_set.churned_after).then(Polars.lit("churned"))
            .when(inactive >= @rule_set.active_within).then(Polars.lit("dormant"))
            .when((Polars.lit(day) - Polars.col("first_day")) < @rule_set.new_for).then(Polars.lit("new"))
            .otherwise(Polars.lit("active"))
    end

    # New or active, in a spell that is not the first and began less than active_within days ago.
    def reactivated_expression(day)
      (Polars.col("state").is_in(%w[new active]) & (Polars.col("spell_start") > Polars.col("first_day")) &
        ((Polars.lit(day) - Polars.col("spell_start")) < @rule_set.active_within)).fill_null(false)
    end

    # First day, last day and start of the latest spell per profile, looking at activity up to a day. A spell that began
    # active_within days before it or earlier may get a later start, but never one within these days.
    def summary(day)
      spells = @spells.since(day - @rule_set.active_within, day)
      latest = spells.filter(Polars.col("next_start") == NEVER)
      latest.select([Polars.col("profile_id"), Polars.col("first_day"), Polars.col("last").alias("last_day"),
                     Polars.col("start").alias("spell_start")])
    end

    def either(condition, yes, no) = Polars.when(condition).then(yes).otherwise(no)

    def smaller(left, right) = either(left < right, left, right)

    def larger(left, right) = either(left > right, left, right)
  end
end
