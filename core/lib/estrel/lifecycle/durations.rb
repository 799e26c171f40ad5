# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How long people stay inactive: from each activity day to the next, or as long as nothing has come yet. What is
    # counted is small and adds up over the parts: how many durations there are of each *kind*, which is twice the days
    # and one more if it has ended, and how often one person has one kind beside another, for intervals that know that
    # one person has many of them, see {ClusteredSurvival}. Of very many people some tell the latter for all: the
    # variance is then that of a sample of them.
    class Durations
      # How many people tell how people differ, at least, where there are more.
      ENOUGH = 50_000
      # What durations, not people, are told apart by: the quarter of the year in which they begin, and how often the
      # person had gone dormant before.
      KINDS = { "season" => 4, "lapses" => 4 }.freeze
      DAY = Spells::DAY
      # Above every kind.
      KIND = 2 * DAY
      # An odd number near 2^32 divided by the golden ratio, for scattering (D. E. Knuth, The Art of Computer
      # Programming 3, section 6.4).
      SCATTER = 2_654_435_761
      private_constant :DAY, :KIND, :SCATTER

      # @param people [Integer] how many there are in the whole ledger
      # @return [Integer] one of how many tells how people differ: a power of two
      def self.every(people) = 1 << [(people / ENOUGH).bit_length - 1, 0].max

      # @param found [Hash{Symbol => Hash}] of {#of} or {#by}
      # @param groups [Integer] how many there are
      # @return [Array<ClusteredSurvival>] of each group
      def self.estimates(found, groups)
        kinds = by_group(found[:kinds], KIND)
        pairs = by_group(found[:pairs], KIND * KIND)
        Array.new(groups) do |group|
          ended, censored = kinds.fetch(group, []).partition { |kind, _| kind.odd? }.map do |half|
            half.to_h { |kind, count| [kind / 2, count] }
          end
          beside = pairs.fetch(group, []).to_h { |pair, count| [pair.divmod(KIND), count] }
          ClusteredSurvival.new(ended, censored, beside)
        end
      end

      def self.by_group(counts, width)
        counts.each_with_object({}) do |(code, count), groups|
          group, rest = code.divmod(width)
          (groups[group] ||= []) << [rest, count] if count.positive?
        end
      end
      private_class_method :by_group

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
      # @param every [Integer] see {every}
      def initialize(lifecycle, last, every: 1)
        @lifecycle = lifecycle
        @last = last
        @every = every
      end

      # @param grouping [Grouping]
      # @return [Hash{Symbol => Hash{Integer => Integer}}] for {Analyses::Sum}: `kinds`, how many durations by group and
      #   kind; `pairs`, by group and two kinds in order, how often people have the one times how often the other
      def of(grouping)
        counted(grouping.whole? ? in_one_group : in_groups(grouping), grouping.size, @every)
      end

      # Of durations that make somebody dormant; what the others are does not change how these end.
      #
      # @param by [String] of {KINDS}
      # @return [Hash{Symbol => Hash{Integer => Integer}}] as {#of}, by what the durations are told apart by
      def by(by)
        told = long.with_columns([by == "season" ? season : lapses])
        counted(told.select([profile, group, Polars.col("kind")]), KINDS.fetch(by))
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
        keys.select([key.floordiv(DAY).alias("profile_id"), (key & (DAY - 1)).cast(Polars::Int32).alias("day")])
      end

      # The kind of the duration from each day on. The next row is the next day, if it is of the same person.
      def kinds
        @kinds ||= begin
          ended = (profile == profile.shift(-1)).fill_null(false)
          told = Polars.when(ended).then(((day.shift(-1) - day) * 2) + 1).otherwise((Polars.lit(@last) - day) * 2)
          days.select([told.cast(Polars::Int32).alias("kind")])["kind"]
        end
      end

      def in_one_group = days.select([profile, Polars.lit(0).alias("group")]).with_columns([kinds])

      def in_groups(grouping)
        keys = days.select([((profile.cast(Polars::Int64) * DAY) + day).alias("key")]).with_columns([kinds])
        grouping.spread_keys(keys).select([Polars.col("key").floordiv(DAY).alias("profile_id"), group,
                                           Polars.col("kind")])
      end

      # Those that make somebody dormant, with their `length`. There are few.
      def long
        @long ||= begin
          makes = kinds.to_frame.select([Polars.col("kind") >= 2 * @lifecycle.rule_set.active_within])["kind"]
          rows = days.filter(makes).select([profile.cast(Polars::Int64), day]).with_columns([kinds.filter(makes)])
          rows.with_columns([Polars.col("kind").floordiv(2).alias("length")])
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
      #
      # @param told [Polars::DataFrame] `profile_id`, `group` and `kind`, by profile
      # @param groups [Integer] how many there are
      # @param every [Integer] of how many people one tells how often somebody has one kind beside another
      def counted(told, groups, every = 1)
        each = each_kind(every == 1 ? told : some(told, every), groups)
        counts = every == 1 ? Tally.of(each, coded, weight: "n") : all_kinds(told)
        { kinds: counts.reject { |code, _| code % KIND == 1 }, pairs: pairs(each, every) }
      end

      # A narrow number is counted faster.
      def all_kinds(told)
        code = coded.cast(Polars::Int32).alias("code")
        told.lazy.select([code]).group_by("code").agg([Polars.len.alias("n")]).collect.rows.to_h
      end

      def coded = (Polars.col("group") * KIND) + Polars.col("kind")

      # People one in so many, by their numbers, in which there may be an order.
      def some(told, every)
        bits = (every - 1) << 16
        told.filter(((profile.cast(Polars::Int64) * SCATTER) & bits).eq(0))
      end

      # Of each person and group, the kinds of durations with their number `n`, by `owner`, which tells both. Sorting
      # one narrow column is much faster than grouping by it.
      def each_kind(told, groups)
        from, to = told.select([profile.min.alias("from"), profile.max.alias("to")]).row(0).map(&:to_i)
        kinds = (told["kind"].max || 0) + 1
        type = (to - from + 1) * groups * kinds < 2**32 ? Polars::UInt32 : Polars::Int64
        owner = ((profile - from).cast(type) * groups) + group.cast(type)
        code = ((owner * kinds) + Polars.col("kind").cast(type)).cast(type)
        parted(told.lazy.select([code.alias("code")]), groups, kinds)
      end

      def parted(codes, groups, kinds)
        code, row, kind = %w[code row kind].map { |name| Polars.col(name) }
        rows = codes.sort("code").with_row_index(name: "row").collect
        owner = code.cast(Polars::Int64).floordiv(kinds)
        n = row.shift(-1).fill_null(rows.height).cast(Polars::Int64) - row.cast(Polars::Int64)
        rows.filter(code.ne_missing(code.shift(1)))
            .select([owner.alias("owner"), (owner % groups).alias("group"),
                     (code.cast(Polars::Int64) % kinds).alias("kind"), n.alias("n")]).filter(kind != 1)
      end

      # Each row with those of the same owner that stand so many rows after it, from none on until there are none.
      def pairs(each, every)
        apart = (0..).lazy.map { |rows| pairs_apart(each, rows) }.take_while { |found| found.height.positive? }.to_a
        counts = apart.empty? ? {} : Tally.of(Polars.concat(apart), Polars.col("pair"), weight: "n")
        counts.transform_values { |count| count * every }
      end

      def pairs_apart(each, rows)
        owner, group, kind, n = %w[owner group kind n].map { |name| Polars.col(name) }
        pair = (((group * KIND) + kind) * KIND) + kind.shift(-rows)
        each.lazy.select([(owner == owner.shift(-rows)).fill_null(false).alias("same"), pair.alias("pair"),
                          (n * n.shift(-rows)).alias("n")])
            .filter(Polars.col("same")).group_by("pair").agg([Polars.col("n").sum]).collect
      end
    end
  end
end
