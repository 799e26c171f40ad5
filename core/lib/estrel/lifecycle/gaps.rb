# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How many people, or devices, were active on each day after so many days without: one row per group, day and gap.
    # It is counted in one pass over all activity, is small, and tells whatever depends on nothing but the days between
    # one activity and the next, for every date and window.
    class Gaps
      include Analyses::Sum::Reversible

      DAY = Spells::DAY
      # The gap before the first activity of all; longer than any other.
      APART = Spells::APART
      FIRST = APART
      # Bits of a device's 60 that must go for the day to fit beside it in 63.
      SPARE = 13
      private_constant :DAY, :APART, :SPARE

      # @param keys [Polars::DataFrame] the sorted column `key`: who, times {DAY}, plus day; repeats are none
      # @param grouping [Grouping, nil] nil for one group of all
      # @return [Gaps]
      def self.of(keys, grouping)
        key = Polars.col("key")
        gap = key - key.shift(1)
        day = key & (DAY - 1)
        return from_codes(ungrouped(keys, day, gap, gap < APART)) if grouping.nil? || grouping.whole?

        from_codes([grouped(keys, (day * DAY) + gap.fill_null(FIRST).clip(0, FIRST), grouping)])
      end

      # @param codes [Array<Polars::LazyFrame>] the column `code`: group, day and gap as one number
      # @return [Gaps]
      def self.from_codes(codes)
        number = Polars.len.cast(Polars::Int64).alias("n")
        counted = Polars.concat(codes.map { |rows| rows.group_by("code").agg([number]) })
        code = Polars.col("code").cast(Polars::Int64)
        group = code.floordiv(DAY * DAY).alias("group")
        day = (code.floordiv(DAY) & (DAY - 1)).alias("day")
        gap = (code & (DAY - 1)).alias("gap")
        new(counted.select([group, day, gap, Polars.col("n")]).filter(Polars.col("gap") != 0).collect)
      end
      private_class_method :from_codes

      # @param rows [Polars::DataFrame] `profile_id` and `day`, sorted; repeats are none
      # @return [Gaps] of everybody
      def self.of_days(rows)
        profile = Polars.col("profile_id")
        day = Polars.col("day").cast(Polars::Int32)
        from_codes(ungrouped(rows, day, day - day.shift(1), profile == profile.shift(1)))
      end

      # @param days [Polars::DataFrame] `device` and `day`, in any order, see {Spells#device_days}
      # @param devices [Polars::Series] the different ones of these
      # @return [Gaps] between the days activity came from each device
      def self.of_devices(days, devices = days["device"].unique)
        key = (device_key(devices) + Polars.col("day")).alias("key")
        of(days.lazy.select([key]).collect["key"].sort.to_frame, nil)
      end

      # A number of each device that leaves room for the day: without its last bits, where that tells all apart.
      def self.device_key(devices)
        device = Polars.col("device")
        short = (device - (device & ((1 << SPARE) - 1))) * (DAY >> SPARE)
        return short if devices.alias("device").to_frame.select([short]).n_unique == devices.len

        places = Polars::Series.new("place", (0...devices.len).to_a, dtype: Polars::Int64)
        device.replace_strict(devices, places) * DAY
      end
      private_class_method :device_key

      # Day and gap as one number, since grouping by one column is many times faster than by several: of those who have
      # been active before, and of everybody's first day.
      #
      # @param same [Polars::Expr] whether a row is about whom the row before it is about
      # @return [Array<Polars::LazyFrame>]
      def self.ungrouped(rows, day, gap, same)
        again = ((day * DAY) + gap).filter(same & (gap != 0))
        first = ((day * DAY) + FIRST).filter(same.is_not.fill_null(true))
        [again, first].map { |code| rows.lazy.select([code.cast(Polars::Int32).alias("code")]) }
      end

      # The same with the number of the group before it.
      def self.grouped(keys, code, grouping)
        group = Polars.col("group").cast(Polars::Int64) * (DAY * DAY)
        grouping.spread_keys(keys.select([Polars.col("key"), code.alias("code")])).lazy
                .select([(group + Polars.col("code")).alias("code")])
      end
      private_class_method :ungrouped, :grouped

      # @param frames [Array<Polars::DataFrame>] as {#frame}, to be added up
      def initialize(*frames)
        @frames = frames
      end

      # @return [Polars::DataFrame] `group`, `day` (number), `gap` (days since the activity day before, or {FIRST}) and
      #   `n` (how many had that gap then), in no order
      def frame
        return @frames.first if @frames.one?

        added = Polars.concat(@frames).group_by(%w[group day gap]).agg([Polars.col("n").sum])
        (@frames = [added]).first
      end

      # @param other [Gaps] of other people, in the same groups
      # @return [Gaps] of both
      def +(other) = Gaps.new(*frames, *other.frames)

      # @param other [Gaps] of some of these people, in the same groups
      # @return [Gaps] of the others
      def -(other)
        less = other.frames.map { |frame| frame.with_columns([Polars.col("n") * -1]) }
        Gaps.new(Gaps.new(*frames, *less).frame.filter(Polars.col("n") != 0))
      end

      # @return [Integer] bytes
      def estimated_size = frames.sum(&:estimated_size)

      # @param last [Integer] day number; what lies after is left out
      # @return [Gaps]
      def until(last) = Gaps.new(frame.filter(Polars.col("day") <= last))

      # Who has not been active for longer than a window before a day, and is on it: there such a window begins.
      #
      # @param window [Integer] days
      # @return [Hash{Integer => Integer}] how many by group times {Spells::DAY} plus day
      def begun(window) = tally(frame.filter(Polars.col("gap") > window))

      # Who is active on a day, and then not for longer than a window.
      #
      # @param window [Integer] days
      # @return [Hash{Integer => Integer}] as {#begun}
      def over(window)
        back = tally(frame.filter(Polars.col("gap") <= window), Polars.col("day") - Polars.col("gap"))
        tally(frame).to_h { |at, count| [at, count - back.fetch(at, 0)] }
      end

      protected

      attr_reader :frames

      private

      def tally(rows, number = Polars.col("day")) = Tally.of(rows, (Polars.col("group") * DAY) + number, weight: "n")
    end
  end
end
