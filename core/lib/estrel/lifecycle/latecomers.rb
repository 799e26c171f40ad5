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

      # @param lifecycle [Lifecycle]
      def initialize(lifecycle)
        @active_within = lifecycle.rule_set.active_within
        @activity = lifecycle.activity_rows
      end

      # @return [Polars::Series] sorted profile ids
      def ids
        late = late_days
        return late["key"].alias("profile_id") if late.height.zero?

        punctual = Polars.col("received_day") <= Polars.col("day")
        around = @activity.map { |rows| neighbours(late, Ledger::Layout.days(rows.filter(punctual))) }
        told(late, around)["profile_id"].unique.sort
      end

      private

      # One row per (profile, day) with late events: its key, and the day the first of them was known.
      def late_days
        known = Polars.col("received_day")
        key = (Polars.col("profile_id").cast(Polars::Int64) * DAY) + Polars.col("day")
        rows = @activity.map do |frame|
          frame.lazy.filter(known > Polars.col("day")).select([key.alias("key"), known.alias("known")])
        end
        Polars.concat(rows).group_by("key").agg([Polars.col("known").min]).sort("key").collect
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
