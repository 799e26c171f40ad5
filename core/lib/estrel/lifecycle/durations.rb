# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How long people stay inactive: from each activity day to the next, or as long as nothing has come yet. What is
    # counted is small and adds up over the parts; people are told apart by blocks, for intervals that know that one
    # person has many of them, see {ClusteredSurvival}.
    class Durations
      BLOCKS = 32 # a power of two: the last bits of a profile's number tell its block
      # What durations, not people, are told apart by: the quarter of the year in which they begin, and how often the
      # person had gone dormant before.
      KINDS = { "season" => 4, "lapses" => 4 }.freeze
      DAY = Spells::DAY
      private_constant :DAY

      # @param counts [Hash{Integer => Integer}] of {counted}
      # @param groups [Integer] how many there are
      # @return [Array<ClusteredSurvival>] of each group
      def self.estimates(counts, groups)
        found = Array.new(groups) { Array.new(BLOCKS) { [Hash.new(0), Hash.new(0)] } }
        counts.each do |code, count|
          place, length = code.divmod(DAY)
          half, block = place.divmod(BLOCKS)
          found[half / 2][block][half.odd? ? 0 : 1][length] += count if count.positive?
        end
        found.map { |blocks| ClusteredSurvival.new(blocks) }
      end

      # @param counts [Hash{Integer => Integer}] of {#longest}
      # @param groups [Integer] how many there are
      # @return [Array<Hash{Integer => Integer}>] of each group, people who have been inactive for longer than so many
      #   days, by days
      def self.at_risk(counts, groups)
        longest = Array.new(groups) { Hash.new(0) }
        counts.each do |code, count|
          group, days = code.divmod(DAY)
          longest[group][days] += count
        end
        longest.map do |people|
          left = people.values.sum
          (0..(people.keys.max || 0)).to_h { |days| [days, left -= people.fetch(days, 0)] }
        end
      end

      # @param lifecycle [Lifecycle]
      # @param last [Integer] day number; what lies after is left out
      def initialize(lifecycle, last)
        @lifecycle = lifecycle
        @last = last
      end

      # @param grouping [Grouping]
      # @return [Hash{Integer => Integer}] how many durations by group, whether they have ended, block, and days
      def of(grouping)
        return counted(days, Polars.lit(0, dtype: Polars::Int32)) if grouping.whole?

        counted(keyed { |keys| grouping.spread_keys(keys) }, group)
      end

      # Of durations that make somebody dormant; what the others are does not change how these end.
      #
      # @param kind [String] of {KINDS}
      # @return [Hash{Integer => Integer}] as {#of}, by what the durations are told apart by
      def by(kind)
        told = long.with_columns([kind == "season" ? season : lapses])
        counted(told, group, Polars.col("length"), Polars.col("ended"))
      end

      # @param grouping [Grouping]
      # @return [Hash{Integer => Integer}] people by group and the most days they have been inactive, of those who have
      #   been dormant
      def longest(grouping)
        longest = @longest ||= long.lazy.group_by("profile_id").agg([Polars.col("length").max]).collect
        Tally.of(grouping.spread(longest), (group.cast(Polars::Int64) * DAY) + Polars.col("length"))
      end

      private

      def profile = Polars.col("profile_id")

      def day = Polars.col("day").cast(Polars::Int32)

      def group = Polars.col("group").cast(Polars::Int32)

      # Activity days by person and day; repeats are none.
      def days
        @days ||= begin
          frames = @lifecycle.activity_rows(%w[profile_id day])
          frames.one? ? known(frames.first) : known(from_keys(@lifecycle.activity))
        end
      end

      def known(days)
        days.height.zero? || days["day"].max <= @last ? days : days.filter(Polars.col("day") <= @last)
      end

      def from_keys(keys)
        key = Polars.col("key")
        keys.select([key.floordiv(DAY).alias("profile_id"), (key & (DAY - 1)).cast(Polars::Int32).alias("day"),
                     *(keys.columns - ["key"])])
      end

      # The same through rows by key.
      def keyed
        key = (profile.cast(Polars::Int64) * DAY) + day
        from_keys(yield(days.select([key.alias("key")])))
      end

      # Whether the next row is of the same person, so that her inactivity ended on its day.
      def ended = (profile == profile.shift(-1)).fill_null(false)

      def length = Polars.when(ended).then(day.shift(-1) - day).otherwise(Polars.lit(@last) - day)

      # Those that make somebody dormant, with their `length` and whether they have `ended`. There are few.
      def long
        @long ||= begin
          makes = days.select([(length >= @lifecycle.rule_set.active_within).alias("makes")])["makes"]
          at = makes.arg_true
          following = days["day"].to_frame.select([Polars.col("day").shift(-1).gather(at)])["day"].alias("next")
          ended = days.select([self.ended.gather(at).alias("ended")])["ended"]
          rows = days.filter(makes).hstack([following, ended])
          length = Polars.when(Polars.col("ended")).then(Polars.col("next").cast(Polars::Int32)).otherwise(@last) - day
          rows.select([profile.cast(Polars::Int64), "day", length.alias("length"), "ended"])
        end
      end

      def season
        (day.cast(Polars::Date).dt.month.cast(Polars::Int32) - 1).floordiv(3).alias("group")
      end

      # How many there are of the person before, all of which made her dormant.
      def lapses
        before = Polars.arange(0, Polars.len).cast(Polars::Int64)
        begins = profile.ne_missing(profile.shift(1))
        own = before - Polars.when(begins).then(before).otherwise(nil).forward_fill
        own.clip(0, KINDS["lapses"] - 1).cast(Polars::Int32).alias("group")
      end

      # A repeat looks as if it had ended on its own day, and is left out.
      def counted(days, group, length = self.length, ended = self.ended)
        half = (group * 2) + ended.cast(Polars::Int32)
        block = (profile & (BLOCKS - 1)).cast(Polars::Int32)
        code = ((((half * BLOCKS) + block) * DAY) + length).cast(Polars::Int32)
        counts = days.lazy.select([code.alias("code")]).group_by("code").agg([Polars.len.alias("n")]).collect.rows.to_h
        counts.reject { |found, _| (found % DAY).zero? && (found / (DAY * BLOCKS)).odd? }
      end
    end
  end
end
