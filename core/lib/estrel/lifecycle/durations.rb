# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How long people stay inactive: from each activity day to the next, or as long as nothing has come yet. What is
    # counted is small and adds up over the parts; people are told apart by blocks, for intervals that know that one
    # person has many of them, see {ClusteredSurvival}.
    class Durations
      BLOCKS = 32
      # What durations, not people, are told apart by: the quarter of the year in which they begin, and how often the
      # person had gone dormant before.
      KINDS = { "season" => 4, "lapses" => 4 }.freeze
      DAY = Spells::DAY
      MULTIPLIER = 2_654_435_761
      MODULUS = 2**32
      private_constant :DAY, :MULTIPLIER, :MODULUS

      # @param counts [Hash{Integer => Integer}] of {counted}
      # @param groups [Integer] how many there are
      # @return [Array<ClusteredSurvival>] of each group
      def self.estimates(counts, groups)
        found = Array.new(groups * BLOCKS) { [Hash.new(0), Hash.new(0)] }
        counts.each do |code, count|
          place, length = code.divmod(DAY)
          found[place / 2][place.odd? ? 0 : 1][length] += count if count.positive?
        end
        found.each_slice(BLOCKS).map { |blocks| ClusteredSurvival.new(blocks) }
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
      # @return [Hash{Integer => Integer}] how many durations by group, block, whether they have ended, and days
      def of(grouping)
        counted(grouping.spread_keys(rows))
      end

      # @param kind [String] of {KINDS}
      # @return [Hash{Integer => Integer}] as {#of}, by what the durations are told apart by
      def by(kind)
        counted(rows.with_columns([kind == "season" ? season : lapses]))
      end

      # @param grouping [Grouping]
      # @return [Hash{Integer => Integer}] people by group and the most days they have been inactive
      def longest(grouping)
        longest = @longest ||= rows.lazy.group_by(profile.alias("profile_id")).agg([Polars.col("length").max]).collect
        Tally.of(grouping.spread(longest), (Polars.col("group").cast(Polars::Int64) * DAY) + Polars.col("length"))
      end

      private

      # One row for each activity day of a person, by person and day: `key`, `length` in days, whether it has `ended`.
      def rows
        @rows ||= begin
          key = Polars.col("key")
          known = @lifecycle.activity.lazy.filter((key % DAY) <= @last)
          days = known.filter(key.ne_missing(key.shift(-1)))
          ended = (key.shift(-1).floordiv(DAY) == profile).fill_null(false)
          length = Polars.when(ended).then(key.shift(-1) - key).otherwise(Polars.lit(@last) - (key % DAY))
          days.select([key, length.cast(Polars::Int32).alias("length"), ended.alias("ended")]).collect
        end
      end

      def profile = Polars.col("key").floordiv(DAY)

      # By a number that has nothing to do with the order in which people came (D. E. Knuth, The Art of Computer
      # Programming 3, section 6.4).
      def block = ((profile * MULTIPLIER) % MODULUS).floordiv(MODULUS / BLOCKS)

      def season
        month = (Polars.col("key") % DAY).cast(Polars::Int32).cast(Polars::Date).dt.month.cast(Polars::Int32)
        (month - 1).floordiv(3).alias("group")
      end

      # The running number of lapses so far, less what it was when the person began.
      def lapses
        lapsed = (Polars.col("ended") & (Polars.col("length") >= @lifecycle.rule_set.active_within)).cast(Polars::Int64)
        before = lapsed.cum_sum - lapsed
        begins = profile.ne_missing(profile.shift(1))
        own = before - Polars.when(begins).then(before).otherwise(nil).forward_fill
        own.clip(0, KINDS["lapses"] - 1).cast(Polars::Int32).alias("group")
      end

      def counted(rows)
        place = (Polars.col("group").cast(Polars::Int64) * BLOCKS) + block
        code = (((place * 2) + Polars.col("ended").cast(Polars::Int64)) * DAY) + Polars.col("length")
        Tally.of(rows, code)
      end
    end
  end
end
