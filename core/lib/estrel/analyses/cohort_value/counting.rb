# frozen_string_literal: true

module Estrel
  module Analyses
    class CohortValue
      # Adds up what the people of a part of the ledger have brought in since they began. People are put into {BLOCKS}
      # by their number, so that it can be told how much figures would differ with other people.
      class Counting
        BLOCKS = 20

        # @param analysis [CohortValue]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
        end

        # @return [Hash{String, nil => Integer}] see {EventGroups#counts}
        def values = @analysis.groups.counts(begun, @part, people: true)

        # @return [Hash{Symbol => Hash}] for {Sum}: by group, block and cohort `sizes`, how many began; by these and
        #   the period `brought`, what they brought in; where an attribute says what they cost, `costs` and, of how many
        #   it says so, `priced`
        def to_h(labels)
          each = @analysis.in_groups(begun, @part, labels).map do |told|
            told = told.with_columns([code.alias("code")])
            { sizes: Lifecycle::Tally.of(told, Polars.col("code")), brought: brought(told), **costs(told) }
          end
          each.reduce { |one, other| Sum.of(one, other) }
        end

        private

        def begun = @begun ||= @analysis.starts_in(@part)

        def code
          block = Polars.col("profile_id") % BLOCKS
          (((Polars.col("group").cast(Polars::Int64) * BLOCKS) + block) * @analysis.cohorts) + Polars.col("cohort")
        end

        def brought(told)
          starts = told.select(%w[profile_id occurred_at cohort code]).rename({ "occurred_at" => "began_at" })
          period = Polars.col("step") - Polars.col("cohort")
          at = ((Polars.col("code") * @analysis.cohorts) + period).alias("at")
          rows = valued.lazy.join(starts.lazy, on: "profile_id", how: "inner")
          rows = rows.filter(Polars.col("occurred_at") >= Polars.col("began_at"))
          rows = rows.unique(subset: %w[profile_id step code]) if @analysis.metric.share?
          rows = rows.select([at, Polars.col("value")])
          Sum::Decimals.of(rows.collect, "at")
        end

        # What the attribute is as of the date asked about.
        def costs(told)
          return {} unless @analysis.cost_of

          value = @part.attribute_values(@analysis.cost_of, "number")["value"].cast(Polars::Float64)
          ids = @part.ids.cast(told["profile_id"].dtype).alias("profile_id")
          rows = told.select(%w[profile_id code]).join(Polars::DataFrame.new([ids, value]), on: "profile_id",
                                                                                            how: "inner")
          rows = rows.filter(Polars.col("value").is_not_null)
          { costs: Sum::Decimals.of(rows, "code"), priced: Lifecycle::Tally.of(rows, Polars.col("code")) }
        end

        def valued
          @valued ||= begin
            steps = @analysis.steps
            metric = @analysis.metric
            rows = metric.selection.rows(@part, EventCounts.window(steps), property: metric.property)
            value = metric.property ? Polars.col("value").fill_null(0.0) : Polars.lit(1.0)
            step = (steps.index(Polars.col("day")) - 1).cast(Polars::Int64)
            rows.select([Polars.col("profile_id"), Polars.col("occurred_at"), step.alias("step"), value.alias("value")])
          end
        end
      end
    end
  end
end
