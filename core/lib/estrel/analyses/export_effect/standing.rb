# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # How people stood when a run exported them or held them back: nothing that came after it is in this.
      class Standing
        # @param part [Audience::Evaluator]
        # @param split [Audience::Split, nil]
        # @param states [Boolean] whether it matters who was inactive
        def initialize(part, split, states:)
          @part = part
          @split = split
          @states = states
        end

        # @param rows [Polars::DataFrame] `profile_id`, `day`, `at`, by profile
        # @return [Polars::DataFrame] of each: `ruled`, whether the lifecycle rules are about her; `lapsed`, whether
        #   dormant or churned until the instant; `inactive`, how many days on the day before (of those never active,
        #   since first seen); and the `value` of the split then
        def of(rows)
          return none if rows.height.zero?

          value = value(rows)
          return stateless(value) unless @states

          around = Lifecycle::Moments.new(@part.lifecycle).around(rows.select(%w[profile_id day]))
          seen = rows.select(["profile_id"]).join(@part.first_seen, on: "profile_id", how: "left")["first_seen_day"]
          since = Polars.col("last_day").fill_null(Polars.col("first_seen_day"))
          Polars::DataFrame.new([rows["day"], around["state"], around["last_day"], seen, early(rows), value])
                           .select([Polars.col("state").is_not_null.alias("ruled"), lapsed,
                                    (Polars.col("day") - 1 - since).cast(Polars::Float64).clip(0, nil)
                                                                   .fill_null(0.0).alias("inactive"), "value"])
        end

        private

        def none
          types = { "ruled" => Polars::Boolean, "lapsed" => Polars::Boolean, "inactive" => Polars::Float64,
                    "value" => Polars::String }
          Ledger::Layout.empty(types)
        end

        def lapsed
          lapsed = Polars.col("state").is_in(%w[dormant churned]).fill_null(false)
          (lapsed & Polars.col("early").is_not).alias("lapsed")
        end

        def stateless(value)
          value.to_frame.select([*%w[ruled lapsed].map { |name| Polars.lit(false).alias(name) },
                                 Polars.lit(0.0).alias("inactive"), "value"])
        end

        # Whether there was activity on the day of the run before it.
        def early(rows)
          on = Polars.col("day").is_in(rows["day"].unique)
          frames = @part.lifecycle.activity_rows(%w[profile_id day occurred_at]).map do |frame|
            frame.filter(on).select([Polars.col("profile_id").cast(Polars::Int64), Polars.col("day").cast(Polars::Int32),
                                     Polars.col("occurred_at")])
          end
          first = Polars.concat(frames).group_by(%w[profile_id day]).agg([Polars.col("occurred_at").min])
          rows.select(%w[profile_id day at]).join(first, on: %w[profile_id day], how: "left")
              .select([(Polars.col("occurred_at") < Polars.col("at")).fill_null(false).alias("early")])["early"]
        end

        # The values of the day before each run.
        def value(rows)
          return Polars::Series.new("value", [nil] * rows.height, dtype: Polars::String) unless @split

          frames = rows["day"].unique.sort.to_a.map do |day|
            values = @split.values(@part.at(Calendar.date(day - 1))).alias("value")
            Polars::DataFrame.new([@part.ids.alias("profile_id"), values])
                             .with_columns([Polars.lit(day).cast(Polars::Int32).alias("day")])
          end
          rows.select(%w[profile_id day]).join(Polars.concat(frames), on: %w[profile_id day], how: "left")["value"]
        end
      end
    end
  end
end
