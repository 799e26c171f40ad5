# frozen_string_literal: true

module Estrel
  # The state of every profile on a date, and the counts per state for every day of a range.
  #
  # A profile's activity days fall into *spells*: runs whose neighbours lie at most `active_within` days apart, so the
  # person never went dormant inside one. A spell from its first day s to its last day l says everything: from s the
  # person is new or active, from l + active_within dormant, from l + churned_after churned, until the next spell.
  # Counting is therefore one pass over the spells, however many days are asked for.
  class Lifecycle
    STATES = %w[unseen new active dormant churned].freeze
    # The states a person who has shown activity can be in.
    SEEN_STATES = %w[new active dormant churned].freeze
    DAY = Ledger::Layout::KEY_STEP
    # A day after every other, where a spell has no successor.
    NEVER = DAY - 1
    # The longest range that is counted at once.
    MAX_RANGE = 366 * 40
    # Keys of one profile differ by less, those of two by more.
    APART = DAY / 2
    private_constant :DAY, :NEVER, :APART

    # Raised for a range of days that is upside down or absurdly long.
    class InvalidRange < Error; end

    # @return [Policy]
    attr_reader :policy

    # @param generation [Ledger::Generation]
    # @param policy [Policy]
    def initialize(generation, policy)
      @generation = generation
      @policy = policy
    end

    # Every profile's state at the end of a day.
    #
    # @param date [Date] the as-of date
    # @return [Polars::DataFrame] profile_id, state, returned, first_day, last_day, quiet_days; one row per profile in
    #   the order of the ledger's profiles; people first seen after the date are "unseen"
    def states(date)
      day = Calendar.number(date)
      @generation.cache.fetch([:states, @policy.key, day]) { compute_states(day) }
    end

    # How many people are in each state at the end of every day of a range.
    #
    # @param from [Date]
    # @param to [Date] included
    # @return [Hash{String => Array<Integer>}] per state of {STATES} one count per day; the states of a day add up to
    #   the people first seen by then
    # @raise [InvalidRange]
    def counts(from, to)
      raise InvalidRange, "the range ends (#{to}) before it starts (#{from})" if to < from
      raise InvalidRange, "ask for at most #{MAX_RANGE} days at once" if (to - from) >= MAX_RANGE

      first, last = [from, to].map { |date| Calendar.number(date) }
      @generation.cache.fetch([:counts, @policy.key, first, last]) { compute_counts(first, last) }
    end

    # Every stretch of days a profile spends in one state, from before it was known to ever after.
    #
    # @param since [Date] what lies before this day need not be right, but for the state on it
    # @return [Polars::DataFrame] profile_id, state, from (day number), to (the day after), before (the state before;
    #   null for the first), in no order
    def intervals(since)
      day = Calendar.number(since)
      @generation.cache.fetch([:intervals, @policy.key, day]) { compute_intervals(spells_in(recent_keys(day))) }
    end

    private

    # What a stretch follows is known from the spells: a spell follows unseen days or the quiet ones after the spell
    # before it; new comes first in a spell, then active, dormant and churned.
    def compute_intervals(spells)
      profile = Polars.col("profile_id")
      start, finish, following, first_day = %w[start last next_start first_day].map { |name| Polars.col(name) }
      earlier = Polars.when(profile == profile.shift(1)).then(finish.shift(1)).otherwise(nil)
      spells = spells.with_columns([spell_before(earlier, start).alias("spell_before")])
      dormant = finish + @policy.active_within
      churned = finish + @policy.churned_after
      grown = first_day + @policy.new_for
      opened = Polars.col("spell_before")
      before_active = either(grown > start, Polars.lit("new"), opened)
      before_dormant = either(grown < dormant, Polars.lit("active"), Polars.lit("new"))
      parts = [*unseen_stretches(spells),
               stretch(spells, "new", start, smaller(dormant, grown), opened),
               stretch(spells, "active", larger(start, grown), dormant, before_active),
               stretch(spells, "dormant", dormant, smaller(churned, following), before_dormant),
               stretch(spells, "churned", churned, following, Polars.lit("dormant"))]
      Polars.concat(parts)
    end

    # The state at the end of the day before a spell starts.
    def spell_before(earlier, start)
      quiet = start - 1 - earlier
      Polars.when(earlier.is_null).then(Polars.lit("unseen"))
            .when(quiet >= @policy.churned_after).then(Polars.lit("churned")).otherwise(Polars.lit("dormant"))
    end

    def stretch(spells, state, from, to, before = Polars.lit(nil).cast(Polars::String))
      spells.lazy.filter(from < to)
            .select([Polars.col("profile_id"), Polars.lit(state).alias("state"), from.cast(Polars::Int32).alias("from"),
                     to.cast(Polars::Int32).alias("to"), before.alias("before")]).collect
    end

    # Up to the first activity, or for ever.
    def unseen_stretches(spells)
      first_day = Polars.col("first_day")
      strangers = @generation.profiles.select(["profile_id"]).join(spells, on: "profile_id", how: "anti")
      [stretch(spells.filter(Polars.col("start") == first_day), "unseen", Polars.lit(-NEVER), first_day),
       stretch(strangers, "unseen", Polars.lit(-NEVER), Polars.lit(NEVER))]
    end

    def compute_states(day)
      known = @generation.profiles.select(["profile_id"])
      joined = known.join(summary(day), on: "profile_id", how: "left")
      quiet = Polars.lit(day) - Polars.col("last_day")
      joined.with_columns([quiet.alias("quiet_days"), state_expression(day, quiet).alias("state")])
            .with_columns([returned_expression(day).alias("returned")])
            .select(%w[profile_id state returned first_day last_day quiet_days])
    end

    def state_expression(day, quiet)
      Polars.when(Polars.col("last_day").is_null).then(Polars.lit("unseen"))
            .when(quiet >= @policy.churned_after).then(Polars.lit("churned"))
            .when(quiet >= @policy.active_within).then(Polars.lit("dormant"))
            .when((Polars.lit(day) - Polars.col("first_day")) < @policy.new_for).then(Polars.lit("new"))
            .otherwise(Polars.lit("active"))
    end

    # New or active, in a spell that is not the first and began less than active_within days ago.
    def returned_expression(day)
      (Polars.col("state").is_in(%w[new active]) & (Polars.col("spell_start") > Polars.col("first_day")) &
        ((Polars.lit(day) - Polars.col("spell_start")) < @policy.active_within)).fill_null(false)
    end

    # First day, last day and start of the latest spell per profile, looking at activity up to a day. A spell that began
    # active_within days before it or earlier may get a later start, but never one within these days.
    def summary(day)
      spells = spells_in(recent_keys(day - @policy.active_within, day))
      latest = spells.filter(Polars.col("next_start") == NEVER)
      latest.select([Polars.col("profile_id"), Polars.col("first_day"), Polars.col("last").alias("last_day"),
                     Polars.col("start").alias("spell_start")])
    end

    def compute_counts(first, last)
      spells = self.spells
      start, finish, following, first_day = %w[start last next_start first_day].map { |name| Polars.col(name) }
      dormant = finish + @policy.active_within
      churned = finish + @policy.churned_after
      tally = ->(from, to) { daily(spells.select([from.alias("from"), to.alias("to")]), first, last) }
      alive = tally.call(start, dormant)
      new = tally.call(start, smaller(dormant, first_day + @policy.new_for))
      result = { "new" => new, "active" => alive.zip(new).map { |all, young| all - young },
                 "dormant" => tally.call(dormant, smaller(churned, following)),
                 "churned" => tally.call(churned, following) }
      { "unseen" => unseen(result.values, first, last), **result }
    end

    def unseen(seen, first, last)
      base = daily(@generation.profiles.select([Polars.col("first_seen_day").alias("from"),
                                                Polars.lit(NEVER).alias("to")]), first, last)
      base.each_with_index.map { |size, index| size - seen.sum { |counts| counts[index] } }
    end

    # How many of the half-open intervals [from, to) cover each day of the range.
    def daily(intervals, first, last)
      real = intervals.filter((Polars.col("from") < Polars.col("to")) & (Polars.col("to") > first) &
                              (Polars.col("from") <= last))
      changes = Array.new(last - first + 2, 0)
      { "from" => 1, "to" => -1 }.each do |column, step|
        real.select(Polars.col(column).clip(first, last + 1).cast(Polars::Int32).alias("at"))
            .group_by("at").agg([Polars.len.alias("n")]).rows.each { |at, count| changes[at - first] += step * count }
      end
      total = 0
      changes[..-2].map { |change| total += change }
    end

    def either(condition, yes, no) = Polars.when(condition).then(yes).otherwise(no)

    def smaller(left, right) = either(left < right, left, right)

    def larger(left, right) = either(left > right, left, right)

    # One row per spell: profile_id, start, last, next_start (NEVER for the latest), first_day (of the profile).
    def spells
      @generation.cache.fetch([:spells, @policy.activity, @policy.active_within]) { spells_in(keys) }
    end

    # Two neighbouring keys of one profile differ by the days between; those of two profiles by more than any
    # threshold, since real days leave most of the key's low part unused. So one comparison finds where spells end.
    def spells_in(keys)
      key = Polars.col("key")
      breaks = keys.select([((key - key.shift(1)) > @policy.active_within).fill_null(true).alias("breaks")])["breaks"]
      starts = keys.filter(breaks)
      ends = keys.filter(breaks.to_frame.select([Polars.col("breaks").shift(-1).fill_null(true)]).to_series)
      spells = starts.select([key.floordiv(DAY).alias("profile_id"), (key % DAY).cast(Polars::Int32).alias("start"),
                              (ends["key"] % DAY).cast(Polars::Int32).alias("last")])
      with_neighbours(spells)
    end

    def with_neighbours(spells)
      profile = Polars.col("profile_id")
      start = Polars.col("start")
      following = Polars.when(profile == profile.shift(-1)).then(start.shift(-1)).otherwise(NEVER)
      opening = Polars.when(profile.ne_missing(profile.shift(1))).then(start).otherwise(nil)
      spells.with_columns([following.fill_null(NEVER).cast(Polars::Int32).alias("next_start"),
                           opening.forward_fill.alias("first_day")])
    end

    # The (profile, day) pairs with activity as one sorted column: one combined key sorts far faster than two. A pair
    # stands once for every type that has it; a repeat lies no day behind the one before, so it ends no spell.
    def keys
      @generation.cache.fetch([:activity_keys, @policy.activity]) { together(day_frames) }
    end

    # The pairs that decide the states from a day on: the first of every profile, the last one before that day, and all
    # later ones. Far fewer than all, so putting them in order takes little.
    def recent_keys(day, last = nil)
      key, recent, other = %w[key recent other].map { |name| Polars.col(name) }
      day_of = key & (DAY - 1)
      together(day_frames.map do |frame|
        frame = frame.filter(day_of <= last) if last
        marked = frame.with_columns([(day_of >= day).alias("recent"),
                                     ((key - key.shift(1)) > APART).fill_null(true).alias("other")])
        kept = recent | other | recent.shift(-1).fill_null(true) | other.shift(-1).fill_null(true)
        frame.filter(marked.select([kept.alias("kept")])["kept"])
      end)
    end

    def together(frames)
      return Polars::DataFrame.new({ "key" => [] }, schema: { "key" => Polars::Int64 }) if frames.empty?

      frames.one? ? frames.first : Polars.concat(frames).sort("key")
    end

    def day_frames
      types = @policy.activity.filter_map { |name| @generation.catalogue.event_type(name) }.uniq
      types.reject(&:not_activity).map { |type| @generation.days(type.name) }
    end
  end
end
