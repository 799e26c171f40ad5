# frozen_string_literal: true

module Estrel
  module Analyses
    class BeforeAfter < Analysis
      # Finds for each person somebody who was alike on the day before but did not do it: in the same state, with about
      # as many events of the metric in the days before (none, 1, 2, 3 to 4, 5 to 8, … are about as many), known for as
      # long, and not having done it by the end of the days after.
      #
      # Who is taken of several alike is settled by the profiles' numbers, shuffled always in the same way: the first
      # ones in that order, whatever parts they lie in. So every part gives its first ones, and the first of all are
      # kept. The order is gone along in stretches, since the first few thousand people are enough for most. The same
      # person can stand beside others on several days, but once on each.
      class Matching
        # Shuffles numbers: Knuth's multiplicative hash.
        MULTIPLIER = 2_654_435_761
        MODULUS = 2**32
        # People among whom somebody alike is looked for at first; then among so many times as many.
        FIRST = 2_000
        MORE = 8
        # Rows of people and days that are looked at in one go.
        ROWS = 4_000_000
        STEP = Ledger::Layout::KEY_STEP
        ALIKE = %w[day state about].freeze
        private_constant :MULTIPLIER, :MODULUS, :STEP

        # The stretches of the shuffled order, one after the other.
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
        # @param after [Integer] days
        def initialize(part, start, metric, before:, after:)
          @part = part
          @start = start
          @metric = metric
          @before = before
          @after = after
        end

        # @param people [Polars::DataFrame] `profile_id` and `day`
        # @return [Polars::DataFrame] the same with what they are matched by ({ALIKE}) and `order`, without those the
        #   rules are not about
        def alike(people)
          return described(people) if people.height.zero?

          prepare(people["day"])
          described(people)
        end

        # @param sought [Polars::DataFrame] {ALIKE} and `n`, how many people are wanted of each
        # @param stretch [Range<Integer>] of the shuffled order
        # @return [Polars::DataFrame] `profile_id`, {ALIKE} and `order`: the first n of each
        def candidates(sought, stretch)
          prepare(sought["day"])
          people = pool(stretch)
          days = sought.select(["day"]).unique.sort("day")
          size = [ROWS / [people.height, 1].max, 1].max
          found = (0...days.height).step(size).map do |first|
            @part.budget.check
            first_of(people, days.slice(first, size), sought)
          end
          Polars.concat(found)
        end

        # @param rows [Polars::DataFrame] with {ALIKE} and `order`
        # @return [Polars::DataFrame] with `place`, each one's among those alike
        def self.placed(rows)
          rows.sort([*ALIKE,
                     "order"]).with_columns([Polars.col("order").rank(method: "ordinal").over(ALIKE).alias("place")])
        end

        private

        def prepare(days)
          @moments = Lifecycle::Moments.new(@part.lifecycle)
          @done = done(days.min.to_i - @before, days.max.to_i - 1)
        end

        # Whom there is to be matched with, in a stretch of the shuffled order.
        def pool(stretch)
          @part.first_seen.join(@start.taken(@part).rename({ "day" => "taken_on" }), on: "profile_id", how: "left")
               .with_columns([shuffled])
               .filter((Polars.col("order") >= stretch.begin) & (Polars.col("order") < stretch.end)).drop("order")
        end

        def first_of(people, days, sought)
          day = Polars.col("day")
          free = (Polars.col("first_seen_day") <= day - @before) &
                 (Polars.col("taken_on").is_null | (Polars.col("taken_on") > day + @after))
          others = described(people.join(days, how: "cross").filter(free).select(%w[profile_id day]))
          wanted = Matching.placed(others.join(sought, on: ALIKE, how: "inner"))
          wanted.filter(Polars.col("place") <= Polars.col("n")).select(["profile_id", *ALIKE, "order"])
        end

        def described(rows)
          return none if rows.height.zero?

          state = @moments.around(rows)["state"]
          rows.with_columns([state.alias("state"), counts(rows).alias("n")])
              .filter(Polars.col("state").is_not_null).with_columns([about.alias("about"), shuffled])
              .select(["profile_id", *ALIKE, "order"])
        end

        def none
          types = { "profile_id" => Polars::Int64, "day" => Polars::Int32, "state" => Polars::String,
                    "about" => Polars::Int64, "order" => Polars::Int64 }
          Polars::DataFrame.new(types.transform_values { [] }, schema_overrides: types)
        end

        def shuffled = ((Polars.col("profile_id") * MULTIPLIER) % MODULUS).alias("order")

        # The events of the metric in their order, each with how many there are up to it.
        def done(from, to)
          key = ((Polars.col("profile_id") * STEP) + Polars.col("day")).alias("key")
          @metric.values(@part, from, to).select([key]).sort("key").with_row_index(name: "n", offset: 1)
        end

        # How many events each had in the days before.
        def counts(rows) = up_to(rows, Polars.col("day") - 1) - up_to(rows, Polars.col("day") - @before - 1)

        # How many events there are up to a day of a person, those of all people before counted too.
        def up_to(rows, day)
          asked = rows.select([((Polars.col("profile_id") * STEP) + day).alias("key")]).with_row_index(name: "row")
          asked.sort("key").join_asof(@done, on: "key", strategy: "backward").sort("row")["n"].cast(Polars::Int64)
               .fill_null(0)
        end

        # 0, 1, 2, 3 to 4, 5 to 8, and so on.
        def about
          n = Polars.col("n").cast(Polars::Float64)
          Polars.when(n < 1).then(Polars.lit(-1.0)).otherwise(n.log(2.0).ceil).cast(Polars::Int64)
        end
      end
    end
  end
end
