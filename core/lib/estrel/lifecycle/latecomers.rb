# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Finds whose state was told differently at the time because of events that were received late.
    #
    # An activity day is late when everything that counts on it was received after its end. It made no difference where
    # the person had been active so shortly before it, with something received in time, that nobody would have been
    # called dormant until the late day was known or the next one came. So few people are left to be looked at, however
    # many events are late.
    class Latecomers
      DAY = Spells::DAY
      private_constant :DAY
      # The columns of a late event.
      COLUMNS = %w[profile_id day received_at].freeze
      # Microseconds of most days.
      LENGTH = 86_400 * Calendar::MICROS
      private_constant :COLUMNS, :LENGTH

      # @param lifecycle [Lifecycle]
      # @param activity [Array<Array(Polars::DataFrame, Polars::DataFrame)>] of each type the events that count, and
      #   their days as sorted keys
      def initialize(lifecycle, activity)
        @ledger = lifecycle.ledger
        @active_within = lifecycle.rule_set.active_within
        @activity = activity
      end

      # @return [Polars::Series] sorted profile ids
      def ids
        late = late_days
        return late["key"].alias("profile_id") if late.height.zero?

        around = @activity.each_index.map { |index| neighbours(late, punctual_days(index)) }
        told(late, around)["profile_id"].unique.sort
      end

      # Events that were received after the end of the day they occurred on.
      #
      # @param events [Polars::DataFrame]
      # @return [Polars::DataFrame] with their number in the frame as `row`
      def late(events)
        return events.with_row_index(name: "row") if events.height.zero?

        # What was received a whole day after its day began, the shortest day taken for all, which needs no look-up:
        # most events are not among them.
        since = Polars.col("received_at") - (Polars.col("day").cast(Polars::Int64) * LENGTH)
        rows = events.select([Polars.arg_where(since >= shortest(events["day"])).alias("row")])["row"]
        found = events.select([Polars.all.gather(Polars.lit(rows))]).hstack([rows])
        found.filter(Polars.col("received_at") >= ends(found["day"]))
      end

      private

      # The least by which any of some days ends after it begins in UTC, microseconds.
      def shortest(days) = (days.min..days.max).map { |day| day_end(day) - (day * LENGTH) }.min

      def day_end(day) = @ledger.calendar.end_of(Calendar.date(day))

      def lates = @lates ||= @activity.map { |events, _| late(events.select([*COLUMNS])) }

      # Days with an event received in time: all but those whose events were all late.
      def punctual_days(index)
        events, days = @activity[index]
        unpunctual = days_without_punctual(events, lates[index])
        return days if unpunctual.len.zero?

        rows = days.select([Polars.col("key").search_sorted(Polars.lit(unpunctual), side: "left").alias("row")])["row"]
        kept = Polars::Series.new("kept", [true]).new_from_index(0, days.height)
        days.filter(kept.scatter(rows, false))
      end

      # A person's events of a day stand together; they were all late where as many late ones stand there and those
      # before and after are of another day.
      def days_without_punctual(events, late)
        row, key = %w[row key].map { |name| Polars.col(name) }
        runs = late.with_columns([key_expression.alias("key"), row.cast(Polars::Int64)]).group_by("key")
                   .agg([row.min.alias("first"), row.max.alias("last"), Polars.len.cast(Polars::Int64).alias("n")])
        runs = runs.filter(Polars.col("last") - Polars.col("first") + 1 == Polars.col("n"))
        runs = runs.with_columns([beside(events, runs["first"] - 1).alias("before"),
                                  beside(events, runs["last"] + 1).alias("after")])
        runs.filter(key.ne_missing(Polars.col("before")) & key.ne_missing(Polars.col("after")))["key"].sort
      end

      # The keys of some rows, null where there is no such row.
      def beside(events, rows)
        at = Polars.col("at")
        rows = rows.alias("at").to_frame
                   .select([Polars.when((at >= 0) & (at < events.height)).then(at).otherwise(nil).cast(Polars::UInt32)])
        events.select(%w[profile_id day]).select([Polars.all.gather(Polars.lit(rows["at"]))])
              .select([key_expression.alias("key")])["key"]
      end

      def key_expression = (Polars.col("profile_id") * DAY) + Polars.col("day")

      # For each row the first instant after its day.
      def ends(days)
        return Polars.lit(0) if days.len.zero?

        lowest = days.min
        instants = (lowest..days.max).map { |day| day_end(day) }
        table = Polars.lit(Polars::Series.new("end", instants, dtype: Polars::Int64))
        table.gather((Polars.col("day") - lowest).cast(Polars::UInt32))
      end

      # One row per (profile, day) with late events: its key, and the day the first of them was known.
      def late_days
        known = @ledger.calendar.day_numbers(Polars.col("received_at")).alias("known")
        columns = { "key" => Polars::Int64, "known" => Polars::Int32 }
        rows = lates.map { |late| late.select([key_expression.alias("key"), known]) }
        rows << Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
        Polars.concat(rows).group_by("key").agg([Polars.col("known").min]).sort("key")
      end

      # The keys in a sorted column that lie before each, on it and after it; null where there is none.
      def neighbours(late, keys)
        sought = Polars.lit(late["key"].rechunk)
        at = keys.select([Polars.col("key").search_sorted(sought, side: "left").cast(Polars::Int64).alias("at")])["at"]
        here = picked(keys, at, "here")
        onward = picked(keys, at + 1, "onward")
        rows = late.hstack([picked(keys, at - 1, "before"), here, onward])
        same = (Polars.col("here") == Polars.col("key")).fill_null(false)
        rows.select([Polars.col("before"), same.alias("same"),
                     Polars.when(same).then(Polars.col("onward")).otherwise(Polars.col("here")).alias("after")])
      end

      def picked(keys, rows, name)
        at = Polars.col("at")
        inside = Polars.when((at >= 0) & (at < keys.height)).then(at).otherwise(nil)
        rows = rows.alias("at").to_frame.select([inside.cast(Polars::UInt32).alias("at")])["at"]
        keys.select([Polars.col("key").gather(Polars.lit(rows)).alias(name)])[name]
      end

      def told(late, around)
        columns = around.each_with_index.flat_map do |frame, index|
          frame.columns.map { |name| frame[name].alias("#{name} #{index}") }
        end
        each = ->(name) { around.each_index.map { |index| Polars.col("#{name} #{index}") } }
        rows = late.hstack(columns).with_columns(
          [Polars.max_horizontal(each.call("before")).alias("before"),
           Polars.min_horizontal(each.call("after")).alias("after"),
           each.call("same").reduce(:|).alias("same")]
        )
        rows.filter(different).select([Polars.col("key").floordiv(DAY).alias("profile_id")])
      end

      # Keys of one profile differ by the days between, those of two by far more, so a neighbour of another profile is
      # as good as none.
      def different
        key = Polars.col("key")
        known = key - (key % DAY) + Polars.col("known")
        until_then = Polars.min_horizontal([known, Polars.col("after")])
        covered = (until_then - 1 - Polars.col("before") < @active_within).fill_null(false)
        Polars.col("same").is_not & covered.is_not
      end
    end
  end
end
