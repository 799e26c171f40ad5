# frozen_string_literal: true

module Estrel
  module Analyses
    class BeforeAfter < Analysis
      # Finds for each person somebody who was at risk on her day 0: known by then for about as long, not having done it
      # by that day, whatever came later; and alike: active on day 0 or not, as she was, in the same state on the eve,
      # inactive for about as many days, and with about as many events of the metric in the days before (risk-set
      # matching: Y. P. Li, K. J. Propert and P. R. Rosenbaum, Journal of the American Statistical Association 96
      # (2001), 870–882). Whoever was left out for what she did after day 0 would make those beside her look better.
      #
      # Who is taken of several alike is settled by the profiles' numbers, shuffled anew for each day, whatever parts
      # they lie in. So every part gives its first ones, and the first of all are kept. The order of a day is gone along
      # in stretches, since the first few thousand people are enough for most. The same person can stand beside others
      # on several days, but once on each.
      class Matching
        # Mixes numbers; each is odd, and the last one turns the order of each day by the golden ratio of {MODULUS}.
        MULTIPLIERS = [2_654_435_761, 2_246_822_519].freeze
        HALF = 2**16
        MODULUS = 2**32
        TURN = 2_654_435_769
        # People among whom somebody alike is looked for at first; then among so many times as many.
        FIRST = 2_000
        MORE = 8
        # Rows of people and days that are looked at in one go.
        ROWS = 4_000_000
        STEP = Ledger::Layout::KEY_STEP
        ALIKE = %w[day active state idle about known].freeze
        # What is known of each that the balance is told of: events of the metric in the days before, days inactive on
        # the eve (those never active: since first seen), days known.
        MEASURED = %w[n inactive age].freeze
        # Up to so many events or days are told apart one by one; above, each size is so many times the one before.
        SINGLY = 8
        WIDER = 1.25
        private_constant :MULTIPLIERS, :HALF, :MODULUS, :TURN, :STEP, :SINGLY, :WIDER

        # The stretches of a shuffled order, one after the other.
        #
        # @param people [Integer] how many there are
        # @return [Array<Range<Integer>>] their ends left out
        def self.stretches(people)
          ends = []
          size = FIRST
          while size < people
            ends << (MODULUS * size.fdiv(people)).floor
            size *= MORE
          end
          [0, *ends, MODULUS].each_cons(2).map { |from, to| from...to }
        end

        # @param part [Audience::Evaluator] with lifecycle rules
        # @param start [Start]
        # @param metric [Metric]
        # @param before [Integer] days
        def initialize(part, start, metric, before:)
          @part = part
          @start = start
          @metric = metric
          @before = before
        end

        # @param people [Polars::DataFrame] `profile_id` and `day`
        # @return [Polars::DataFrame] the same with what they are matched by ({ALIKE}), what is {MEASURED} of them, and
        #   `order`, without those the rules are not about
        def alike(people) = described(people)

        # @param sought [Polars::DataFrame] {ALIKE} and `n`, how many people are wanted of each
        # @param stretch [Range<Integer>] of the shuffled order of each day
        # @return [Hash{Symbol => Polars::DataFrame}] `found`, rows as of {#alike}: the first n of each; and `risk`, of
        #   all that were looked at in the first stretch, by day how many (`people`), and the sum and the sum of squares
        #   of `active` and of what is {MEASURED}
        def candidates(sought, stretch)
          return sampled(sought, stretch) if stretch.begin.zero?

          active, not_active = [true, false].map { |one| sought.filter(Polars.col("active") == one) }
          found = [like(active_on(active["day"].unique, stretch), active),
                   *in_turn(not_active["day"], stretch) { |rows| like(rows, not_active) }]
          { found: Polars.concat(found), risk: risk(none) }
        end

        # @param rows [Polars::DataFrame] with {ALIKE} and `order`
        # @return [Polars::DataFrame] with `place`, each one's among those alike
        def self.placed(rows)
          place = Polars.col("order").rank(method: "ordinal").over(ALIKE).alias("place")
          rows.sort([*ALIKE, "order"]).with_columns([place])
        end

        private

        def sampled(sought, stretch)
          rounds = in_turn(sought["day"], stretch) do |rows|
            others = described(rows)
            [first_of(others, sought), risk(others)]
          end
          { found: Polars.concat(rounds.map(&:first)), risk: Polars.concat(rounds.map(&:last)) }
        end

        # Everybody at risk in a stretch, a few days at a time; at least once.
        def in_turn(days, stretch)
          size = [ROWS * MODULUS / [pool.height * stretch.size, 1].max, 1].max
          days = days.unique.sort.to_a
          return [yield(no_days)] if days.empty?

          days.each_slice(size).map do |few|
            @part.budget.check
            yield at_risk(few, stretch)
          end
        end

        def moments = @moments ||= remembered(:moments) { Lifecycle::Moments.new(@part.lifecycle) }

        # What goes by the lifecycle rules.
        def remembered(*what, &) = @part.remembered([*what, @part.lifecycle.rule_set.key], &)

        # Whom there is to be matched with, in one shuffled order.
        def pool
          @pool ||= @part.remembered([:pool, @start.key]) do
            taken = @start.taken(@part).rename({ "day" => "taken_on" })
            @part.first_seen.join(taken, on: "profile_id", how: "left").with_columns([shuffled]).sort("shuffled")
          end
        end

        # Whoever is at risk and active on some days, in a stretch of the order of each: there are far fewer than at
        # risk, so they are looked for from their activity.
        def active_on(days, stretch)
          return no_days if days.len.zero?

          rows = active_days.filter((Polars.col("order") >= stretch.begin) & (Polars.col("order") < stretch.end) &
                                    Polars.col("day").is_in(days))
          free(rows.join(pool, on: "profile_id", how: "inner"))
        end

        # The days of activity among which are all that can be asked for, each with its place in the order of the day.
        def active_days
          @active_days ||= remembered(:active_days, @start.range) do
            key = Polars.col("key")
            day = (key % STEP).cast(Polars::Int32).alias("day")
            first, last = @start.range.minmax
            @part.lifecycle.activity.lazy.select([key, day]).filter(Polars.col("day").is_between(first, last))
                 .select([key.floordiv(STEP).alias("profile_id"), Polars.col("day")]).with_columns([order]).collect
          end
        end

        def no_days = none.select(%w[profile_id day])

        def free(rows)
          day = Polars.col("day")
          free = (Polars.col("first_seen_day") <= day - @before) &
                 (Polars.col("taken_on").is_null | (Polars.col("taken_on") > day))
          rows.filter(free).select(%w[profile_id day]).unique.sort(%w[profile_id day])
        end

        # Those of a stretch of each day's order who are at risk on it.
        def at_risk(days, stretch)
          order = pool["shuffled"]
          rows = days.flat_map do |day|
            sections(day, stretch).map do |from, to|
              at = order.search_sorted(from, side: "left")
              pool.slice(at, order.search_sorted(to, side: "left") - at)
                  .with_columns([Polars.lit(day).cast(Polars::Int32).alias("day")])
            end
          end
          free(Polars.concat(rows))
        end

        # A stretch of a day's order in the one all are shuffled in: one section, or two where it begins anew.
        def sections(day, stretch)
          from = (stretch.begin - (day * TURN)) % MODULUS
          to = from + stretch.size
          to <= MODULUS ? [[from, to]] : [[from, MODULUS], [0, to - MODULUS]]
        end

        def like(rows, sought) = first_of(described(rows, sought), sought)

        def first_of(others, sought)
          wanted = Matching.placed(others.join(sought.rename({ "n" => "wanted" }), on: ALIKE, how: "inner"))
          wanted.filter(Polars.col("place") <= Polars.col("wanted")).select(others.columns)
        end

        def risk(others)
          told = [Polars.col("active").cast(Polars::Float64), *MEASURED.map { |name| Polars.col(name) }]
          others.lazy.group_by("day").agg(
            [Polars.len.cast(Polars::Int64).alias("people"), *told.map(&:sum),
             *told.zip(["active", *MEASURED]).map { |value, name| (value * value).sum.alias("#{name}_squares") }]
          ).collect
        end

        # With {ALIKE}, {MEASURED} and `order`. Where somebody is sought, whoever is not like any of them goes before
        # the rest is looked up.
        def described(rows, sought = nil)
          rows = fitting(aged(rows), sought, %w[day known])
          return none if rows.height.zero?

          rows = fitting(standing(rows), sought, %w[day known active state idle])
          return none if rows.height.zero?

          n = Polars.col("n").cast(Polars::Float64)
          rows.hstack([counts(rows).alias("n")]).with_columns([n, about("n").alias("about"), order])
              .select(["profile_id", *ALIKE, *MEASURED, "order"])
        end

        def fitting(rows, sought, columns)
          sought ? rows.join(sought.select(columns).unique, on: columns, how: "semi") : rows
        end

        # With how long each has been known.
        def aged(rows)
          age = (Polars.col("day") - Polars.col("first_seen_day")).cast(Polars::Float64)
          doubled = Polars.when(age < 1).then(Polars.lit(-1.0)).otherwise(age.log(2.0).ceil)
          rows.select(%w[profile_id day]).join(@part.first_seen, on: "profile_id", how: "left")
              .with_columns([age.alias("age"), doubled.cast(Polars::Int64).alias("known")])
        end

        # With how each stood on the eve, and whether active on the day, without those the rules are not about.
        def standing(rows)
          day = Polars.col("day")
          since = Polars.col("last_day").fill_null(Polars.col("first_seen_day"))
          rows.hstack(moments.around(rows.select(%w[profile_id day])).get_columns)
              .filter(Polars.col("state").is_not_null)
              .with_columns([(Polars.col("next_day") == day).fill_null(false).alias("active"),
                             (day - 1 - since).cast(Polars::Float64).alias("inactive")])
              .with_columns([about("inactive").alias("idle")])
        end

        def about(name)
          value = Polars.col(name)
          many = (value / SINGLY).log(WIDER).ceil + SINGLY
          Polars.when(value <= SINGLY).then(value).otherwise(many).cast(Polars::Int64)
        end

        def none
          types = { "profile_id" => Polars::Int64, "day" => Polars::Int32, "active" => Polars::Boolean,
                    "state" => Polars::String, "idle" => Polars::Int64, "about" => Polars::Int64,
                    "known" => Polars::Int64, **MEASURED.to_h { |name| [name, Polars::Float64] },
                    "order" => Polars::Int64 }
          Ledger::Layout.empty(types)
        end

        # A number from 0 to below {MODULUS}, the same for a profile always.
        def shuffled
          MULTIPLIERS.reduce(Polars.col("profile_id")) do |number, multiplier|
            mixed = (number * multiplier) % MODULUS
            (mixed + (mixed.floordiv(HALF) * 5)) % MODULUS
          end.alias("shuffled")
        end

        # The same turned by as much for each day.
        def order = ((shuffled + (Polars.col("day").cast(Polars::Int64) * TURN)) % MODULUS).alias("order")

        # The events of the metric in their order, each with how many there are up to it.
        def done
          @done ||= @part.remembered([:done, @metric.key, @start.range, @before]) do
            key = ((Polars.col("profile_id") * STEP) + Polars.col("day")).alias("key")
            from, to = @start.range.minmax
            @metric.values(@part, from - @before, to - 1).select([key]).sort("key").with_row_index(name: "n", offset: 1)
          end
        end

        # How many events each had in the days before.
        def counts(rows) = up_to(rows, Polars.col("day") - 1) - up_to(rows, Polars.col("day") - @before - 1)

        # How many events there are up to a day of a person, those of all people before counted too.
        def up_to(rows, day)
          asked = rows.select([((Polars.col("profile_id") * STEP) + day).alias("key")]).with_row_index(name: "row")
          asked.sort("key").join_asof(done, on: "key", strategy: "backward").sort("row")["n"].cast(Polars::Int64)
               .fill_null(0)
        end
      end
    end
  end
end
