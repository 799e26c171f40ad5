# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How many people, or devices, were active on each day after so many days without: one row per group, day and gap.
    # It is counted in one pass over all activity, is small, and tells whatever depends on nothing but the days between
    # one activity and the next, for every date and window.
    class Gaps
      DAY = Spells::DAY
      # The gap before the first activity of all; longer than any other.
      FIRST = Spells::APART
      private_constant :DAY

      # @return [Polars::DataFrame] `group`, `day` (number), `gap` (days since the activity day before, or {FIRST}) and
      #   `n` (how many had that gap then), in no order
      attr_reader :frame

      # @param keys [Polars::DataFrame] the sorted column `key`: who, times {DAY}, plus day; repeats are none
      # @param grouping [Grouping, nil] nil for one group of all
      # @return [Gaps]
      def self.of(keys, grouping)
        counted = coded(keys, grouping).group_by("code").agg([Polars.len.cast(Polars::Int64).alias("n")]).collect
        code = Polars.col("code")
        group = code.floordiv(DAY * DAY).alias("group")
        day = (code.floordiv(DAY) & (DAY - 1)).alias("day")
        gap = (code & (DAY - 1)).alias("gap")
        new(counted.select([group, day, gap, Polars.col("n")]).filter(Polars.col("gap") != 0))
      end

      # @param days [Polars::DataFrame] `device` and `day`, in any order, see {Spells#device_days}
      # @return [Gaps] between the days activity came from each device
      def self.of_devices(days)
        places = days.lazy.select([Polars.col("device")]).unique.with_row_index(name: "place")
        key = (Polars.col("place").cast(Polars::Int64) * DAY) + Polars.col("day")
        keys = days.lazy.join(places, on: "device", how: "left").select([key.alias("key")]).sort("key").collect
        of(keys, nil)
      end

      # Group, day and gap as one number, since grouping by one column is many times faster than by three.
      def self.coded(keys, grouping)
        key = Polars.col("key")
        gap = (key - key.shift(1)).fill_null(FIRST).clip(0, FIRST)
        code = (((key & (DAY - 1)) * DAY) + gap).alias("code")
        return keys.lazy.select([code]) if grouping.nil? || grouping.whole?

        group = Polars.col("group").cast(Polars::Int64) * (DAY * DAY)
        grouping.spread_keys(keys.select([key, code])).lazy.select([(group + Polars.col("code")).alias("code")])
      end
      private_class_method :coded

      # @param frame [Polars::DataFrame] see {#frame}
      def initialize(frame)
        @frame = frame
      end

      # @param other [Gaps] of other people, in the same groups
      # @return [Gaps] of both
      def +(other)
        added = Polars.concat([frame, other.frame]).group_by(%w[group day gap]).agg([Polars.col("n").sum])
        Gaps.new(added)
      end

      # How long inactivity lasts, of each group: the gaps that had ended by a day, and those that had not
      # (right-censored). The gaps of one person count as independent of each other.
      #
      # @param last [Integer] day number
      # @param groups [Integer] how many there are
      # @return [Array<KaplanMeier>]
      def estimates(last, groups)
        known = self.until(last)
        ended = Gaps.by_group(known.lengths, groups) { |days| days }
        censored = Gaps.by_group(known.last, groups) { |day| last - day }
        ended.zip(censored).map { |one, other| KaplanMeier.new(one, other) }
      end

      # @return [Array<Hash{Integer => Integer}>] per group, how many of each number the block makes of the code's rest
      def self.by_group(counts, groups)
        found = Array.new(groups) { Hash.new(0) }
        counts.each do |code, count|
          group, number = code.divmod(DAY)
          found[group][yield(number)] += count if count.positive?
        end
        found
      end

      # @return [Integer] bytes
      def estimated_size = frame.estimated_size

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

      # Who has been active on a day for the last time so far.
      #
      # @return [Hash{Integer => Integer}] as {#begun}
      def last = over(FIRST - 1)

      # How long the gaps were that have ended.
      #
      # @return [Hash{Integer => Integer}] how many by group times {Spells::DAY} plus days
      def lengths = tally(frame.filter(Polars.col("gap") < FIRST), Polars.col("gap"))

      private

      def tally(rows, number = Polars.col("day")) = Tally.of(rows, (Polars.col("group") * DAY) + number, weight: "n")
    end
  end
end
