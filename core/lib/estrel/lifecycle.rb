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
    # Room for days until the year 2149 below the profile's part of a combined sort key.
    DAY_BITS = 16
    # A day after every other, where a spell has no successor.
    NEVER = (1 << DAY_BITS) - 1
    # The longest range that is counted at once.
    MAX_RANGE = 366 * 40
    private_constant :DAY_BITS, :NEVER

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

    private

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

    # First day, last day and start of the latest spell per profile, looking at activity up to a day.
    def summary(day)
      started = Polars.when(starts_spell).then(Polars.col("day")).otherwise(nil)
      activity_days.lazy.with_columns([started.alias("spell_start")]).filter(Polars.col("day") <= day)
                   .group_by("profile_id")
                   .agg([Polars.col("day").min.alias("first_day"), Polars.col("day").max.alias("last_day"),
                         Polars.col("spell_start").max.alias("spell_start")]).collect
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

    def smaller(left, right) = Polars.when(left < right).then(left).otherwise(right)

    # One row per spell: profile_id, start, last, next_start (NEVER for the latest), first_day (of the profile).
    def spells
      @generation.cache.fetch([:spells, @policy.activity, @policy.active_within]) do
        starts = activity_days.filter(starts_spell)
        ends = activity_days.filter(ends_spell)
        same = Polars.col("profile_id") == Polars.col("profile_id").shift(-1)
        opening = Polars.col("previous").is_null
        starts.select([Polars.col("profile_id"), Polars.col("day").alias("start"), ends["day"].alias("last"),
                       Polars.when(same).then(Polars.col("day").shift(-1)).otherwise(NEVER).fill_null(NEVER)
                             .alias("next_start"),
                       Polars.when(opening).then(Polars.col("day")).otherwise(nil).forward_fill.alias("first_day")])
      end
    end

    def starts_spell
      Polars.col("previous").is_null | ((Polars.col("day") - Polars.col("previous")) > @policy.active_within)
    end

    def ends_spell
      Polars.col("next").is_null | ((Polars.col("next") - Polars.col("day")) > @policy.active_within)
    end

    # One row per profile and day with activity, in order, with the profile's previous and next such day.
    def activity_days
      @generation.cache.fetch([:activity_days, @policy.activity]) do
        keys = distinct(merged_keys)
        profile = Polars.col("key").floordiv(1 << DAY_BITS)
        days = keys.select([profile.alias("profile_id"), (Polars.col("key") % (1 << DAY_BITS)).cast(Polars::Int32)
                                                                                            .alias("day")])
        days.with_columns([neighbour(1).alias("previous"), neighbour(-1).alias("next")])
      end
    end

    def neighbour(offset)
      same = Polars.col("profile_id") == Polars.col("profile_id").shift(offset)
      Polars.when(same).then(Polars.col("day").shift(offset)).otherwise(nil)
    end

    # The (profile, day) pairs of all activity as one sorted Int64 column: one key sorts far faster than two.
    def merged_keys
      known = @policy.activity.select { |type| @generation.catalogue.event_types.key?(type) }
      frames = known.map { |type| distinct(keys_of(@generation.events(type))) }
      return Polars::DataFrame.new({ "key" => [] }, schema: { "key" => Polars::Int64 }) if frames.empty?

      frames.one? ? frames.first : Polars.concat(frames).sort("key")
    end

    def keys_of(events)
      events.select([((Polars.col("profile_id") * (1 << DAY_BITS)) + Polars.col("day")).alias("key")])
    end

    # Drops repeats from a sorted column by looking at the row before.
    def distinct(keys) = keys.filter(Polars.col("key").ne_missing(Polars.col("key").shift(1)))
  end
end
