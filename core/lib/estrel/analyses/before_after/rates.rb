# frozen_string_literal: true

module Estrel
  module Analyses
    class BeforeAfter < Analysis
      # How much of a metric people have on each day around a day of their own, and per day before and after it.
      class Rates
        # @param part [Audience::Evaluator]
        # @param metric [Metric]
        # @param before [Integer] days
        # @param after [Integer] days
        def initialize(part, metric, before:, after:)
          @part = part
          @metric = metric
          @before = before
          @after = after
        end

        # @param rows [Polars::DataFrame] `profile_id` and `day`
        # @return [Hash{Symbol => Object}] `each`, the rows with what each has per day `before` and `after`; and `days`,
        #   by day from day 0, the sum over the rows of what each has on it, and of its square
        def of(rows)
          return { each: none, days: {} } if rows.height.zero?

          numbered = rows.select(%w[profile_id day]).with_row_index(name: "row")
          around = around(numbered)
          { each: each(numbered, around), days: days(around) }
        end

        private

        # Events of each row's person by their distance from the row's day.
        def around(numbered)
          days = numbered["day"]
          @metric.values(@part, days.min.to_i - @before, days.max.to_i + @after)
                 .rename({ "day" => "on" }).join(numbered, on: "profile_id", how: "inner")
                 .with_columns([(Polars.col("on") - Polars.col("day")).alias("at")])
                 .filter(Polars.col("at").is_between(-@before, @after))
        end

        def each(numbered, around)
          at = Polars.col("at")
          found = around.lazy.group_by("row").agg([per_day(at.lt(0), @before, "before"),
                                                   per_day(at.gt(0), @after, "after")])
          numbered.lazy.join(found, on: "row", how: "left").sort("row")
                  .select([Polars.col("profile_id"), Polars.col("day"), Polars.col("before").fill_null(0.0),
                           Polars.col("after").fill_null(0.0)]).collect
        end

        def per_day(inside, days, name)
          (Polars.col("value").filter(inside).sum.cast(Polars::Float64) / days).alias(name)
        end

        def days(around)
          value = Polars.col("value")
          each = around.lazy.group_by(%w[at row]).agg([value.sum])
          each.group_by("at").agg([value.sum.alias("sum"), (value * value).sum.alias("squares")]).collect
              .rows.to_h { |at, *found| [at, found] }
        end

        def none
          types = { "profile_id" => Polars::Int64, "day" => Polars::Int32, "before" => Polars::Float64,
                    "after" => Polars::Float64 }
          Ledger::Layout.empty(types)
        end
      end
    end
  end
end
