# frozen_string_literal: true

module Estrel
  class Lifecycle
    # What was known of everybody at the time: at every date only what had been received by its end, and only those
    # counted as one person who had been linked by then.
    #
    # For most people nothing differed; only the others are looked at. Of these each activity day has a day it was known
    # from, and while days become known one after the other, the person's first and last activity known so far stand
    # until the next one.
    class ReceivedThen
      DAY = Spells::DAY
      NEVER = Spells::NEVER
      private_constant :DAY, :NEVER

      # @param lifecycle [Lifecycle]
      def initialize(lifecycle)
        @lifecycle = lifecycle
        @ledger = lifecycle.ledger
        @rule_set = lifecycle.rule_set
      end

      # People per state as known at each date.
      #
      # @param steps [Steps]
      # @param late [Boolean] whether events count only once received
      # @param apart [Boolean] whether people who were linked later count apart until then
      # @return [Hash{String => Array<Integer>}] for each of {SEEN_STATES} and for "reactivated", which is not told here
      #   and always 0, one count per date
      def counts(steps, late: true, apart: true)
        everybody = Grouping.everybody(@ledger)
        @lifecycle.remembered([:received_then, late, apart], steps, everybody) do
          compute(steps, everybody, late, apart)
        end
      end

      # @param ids [Polars::Series] sorted profile ids
      # @param steps [Steps]
      # @param late [Boolean]
      # @param apart [Boolean]
      # @return [Edges] of these people as known at the time
      def edges(ids, steps, late, apart)
        known = known_days(ids, late, apart)
        rows = running(known)
        frame = Edges.cut(rows, @rule_set, steps, from: Polars.col("known"), to: Polars.col("until"),
                                                  first: Polars.col("first"), last: Polars.col("last"))
        Edges.new(frame, steps, 1)
      end

      # How late the events that count were received, by the source that sent them; adds up over the parts of a ledger.
      #
      # @param from [Date] events that occurred from this day on
      # @param to [Date] to this one
      # @return [Hash{Integer => Hash}] per number of a source, `events`, and `late`: of those received after the end of
      #   the day they occurred on, how many were so many days late
      def lateness(from, to)
        span = [from, to].map { |date| Calendar.number(date) }
        @ledger.cache.fetch([:late_sources, @rule_set.activity_key, span]) { by_source(span) }
      end

      private

      def compute(steps, everybody, late, apart)
        now = @lifecycle.edges(steps, everybody).counts.first
        ids = affected(late, apart)
        return now.except("reactivated") if ids.len.zero?

        spells = @lifecycle.spells
        theirs = spells.filter(spells["profile_id"].is_in(ids))
        without = Edges.of_spells(theirs, @rule_set, steps, everybody).counts.first
        before = edges(ids, steps, late, apart).counts.first
        SEEN_STATES.to_h do |state|
          counts = now[state].zip(without[state], before[state])
          [state, counts.map { |all, old, new| all - old + new }]
        end
      end

      def by_source(span)
        frames = activity_events(@ledger).map { |events, _| events.filter(Polars.col("day").is_between(*span)) }
        days = Polars.col("received_day") - Polars.col("day")
        late = Polars.col("received_day") > Polars.col("day")
        late = tally(frames.map { |events| events.filter(late) }, ["source_id", days.alias("days")])
        tally(frames, ["source_id"]).to_h do |(source), events|
          [source, { events: events, late: late.select { |(of, _), _| of == source }.transform_keys(&:last) }]
        end
      end

      # @return [Hash{Array => Integer}] how many events there are of each combination
      def tally(frames, keys)
        return {} if frames.empty?

        columns = frames.map { |events| events.select(%w[source_id day received_day]) }
        Polars.concat(columns).group_by(keys).agg([Polars.len.cast(Polars::Int64).alias("n")]).rows
              .to_h { |*key, count| [key, count] }
      end

      # Who was told differently at the time.
      def affected(late, apart)
        key = [:known_late, @rule_set.activity_key, @rule_set.active_within, late, apart]
        @ledger.cache.fetch(key) do
          found = [(Latecomers.new(@lifecycle).ids if late), (@ledger.origins["profile_id"] if apart)].compact
          found.empty? ? Polars::Series.new("profile_id", [], dtype: Polars::Int64) : Polars.concat(found).unique.sort
        end
      end

      # @return [Array<Array(Polars::DataFrame, Catalogue::EventType)>] the events that count, of each type
      def activity_events(ledger)
        @rule_set.activity_in(ledger.catalogue).map do |type, where|
          events = ledger.events_beside(type.name, %w[received_day])
          [where ? events.filter(where.expression(type, ledger.calendar)) : events, type]
        end
      end

      # From which day each activity day of each of some people was known: profile_id, day, known, until (the day the
      # person became part of another).
      def known_days(ids, late, apart)
        people = @ledger.picked(ids)
        never = Polars.lit(NEVER).cast(Polars::Int32).alias("until")
        frames = activity_events(@ledger).flat_map do |events, _|
          theirs = Ledger::Rows.of(events.select(%w[profile_id day received_day event_id]), ids)
          whole = theirs.select([Polars.col("profile_id"), Polars.col("day"), known_day(late).alias("known"), never,
                                 Polars.col("event_id")])
          apart && people.origins.height.positive? ? owned(whole, people) : [without_repeats(whole.drop("event_id"))]
        end
        return Polars.concat(frames) if frames.any?

        Polars::DataFrame.new(%w[profile_id day known until].to_h { |name| [name, []] })
      end

      # Most events of a day tell nothing that the one before does not.
      def without_repeats(known)
        changed = %w[profile_id day known].map { |name| Polars.col(name).ne_missing(Polars.col(name).shift(1)) }
        known.filter(changed.reduce(:|))
      end

      # The day an event could be known from.
      def known_day(late)
        day = Polars.col("day")
        late ? Polars.max_horizontal([day, Polars.col("received_day")]) : day
      end

      # Each event once for every owner it had, known from when it came to that owner, until it left.
      def owned(events, people)
        joined = events.join(people.origins.select(%w[event_id owner_id since until]).rename({ "until" => "left" }),
                             on: "event_id", how: "left")
        stayed = joined.filter(Polars.col("owner_id").is_null).select(%w[profile_id day known until])
        moved = joined.filter(Polars.col("owner_id").is_not_null)
        moved = moved.select([Polars.col("owner_id").alias("profile_id"), Polars.col("day"),
                              Polars.max_horizontal([Polars.col("known"), Polars.col("since")]).alias("known"),
                              Polars.col("left").alias("until")])
        [stayed, moved]
      end

      # One number sorts many times faster than three columns; profiles beyond the 32nd bit leave no room for it.
      def sorted_by(known, number, columns)
        return known.sort(columns) if (known["profile_id"].max || 0) >= (1 << 31)

        known.with_columns([number.alias("order")]).sort("order").drop("order")
      end

      # The first and last activity known, from each day something becomes known to before the next: one number that
      # rises with person and day lets a running maximum stay within the person.
      def running(known)
        profile, from, left = %w[profile_id known until].map { |name| Polars.col(name) }
        sorted = bounds(sorted_by(known, (((profile * DAY) + from) * DAY) + Polars.col("day"),
                                  %w[profile_id known day]))
        following = Polars.when(profile == profile.shift(-1)).then(from.shift(-1)).otherwise(left).fill_null(left)
        rows = sorted.with_columns([Polars.min_horizontal([following, left]).alias("until"),
                                    Polars.lit(0).cast(Polars::Int32).alias("group")])
        rows.filter(from < left)
      end

      def bounds(sorted)
        profile, day = %w[profile_id day].map { |name| Polars.col(name) }
        last = ((profile * DAY) + day).cum_max % DAY
        first = Polars.lit(DAY - 1) - (((profile * DAY) + (Polars.lit(DAY - 1) - day)).cum_max % DAY)
        sorted.with_columns([last.cast(Polars::Int32).alias("last"), first.cast(Polars::Int32).alias("first")])
      end
    end
  end
end
