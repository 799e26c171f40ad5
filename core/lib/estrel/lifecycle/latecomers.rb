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
      # @param events [Array<Polars::DataFrame>] those that count, of each type
      def initialize(lifecycle, events)
        @ledger = lifecycle.ledger
        @active_within = lifecycle.policy.active_within
        @events = events
      end

      # @return [Polars::Series] sorted profile ids
      def ids
        late = late_days
        return late["key"].floordiv(DAY).alias("profile_id") if late.height.zero?

        around = @events.each_index.map { |index| neighbours(late, punctual_days(index)) }
        told(late, around)["profile_id"].unique.sort
      end

      # Events that were received after the end of the day they occurred on.
      #
      # @param events [Polars::DataFrame]
      # @return [Polars::DataFrame]
      def late(events) = events.filter(late?(events))

      private

      def late?(events)
        return Polars::Series.new("late", [], dtype: Polars::Boolean) if events.height.zero?

        events.select([(Polars.col("received_at") >= ends(events["day"])).alias("late")])["late"]
      end

      # Days with an event received in time.
      def punctual_days(index)
        in_time = masks[index].to_frame.select([Polars.col("late").is_not])["late"]
        Ledger::Layout.days(@events[index].select(%w[profile_id day]).filter(in_time))
      end

      # Which events of each type are late.
      def masks = @masks ||= @events.map { |events| late?(events) }

      # For each row the first instant after its day.
      def ends(days)
        lowest = days.min
        instants = (lowest..days.max).map { |day| @ledger.calendar.end_of(Calendar.date(day)) }
        table = Polars.lit(Polars::Series.new("end", instants, dtype: Polars::Int64))
        table.gather((Polars.col("day") - lowest).cast(Polars::UInt32))
      end

      # One row per (profile, day) with late events: its key, and the day the first of them was known.
      def late_days
        known = @ledger.calendar.day_numbers(Polars.col("received_at")).alias("known")
        key = ((Polars.col("profile_id") * DAY) + Polars.col("day")).alias("key")
        rows = @events.zip(masks).map do |events, late|
          events.select(%w[profile_id day received_at]).filter(late).select([key, known])
        end
        if rows.empty?
          columns = { "key" => Polars::Int64, "known" => Polars::Int32 }
          return Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
        end
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
