# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What became of people's activity and states, by the lifecycle rules: of those dormant or churned whether they
      # came back, of all whom the rules are about whether they were active within the days, and whether they are new or
      # active at the end of them.
      class LifecycleOutcome < Outcome
        CAME_BACK = "came_back"
        IS_ACTIVE = "is_active"
        # Of each kind, what those did of whom it is true.
        KINDS = { CAME_BACK => "were reactivated", "was_active" => "were active",
                  IS_ACTIVE => "were new or active at the end" }.freeze

        # @param kind [String] of {KINDS}
        # @param days [Integer]
        # @param rules [Lifecycle::RuleSet]
        def initialize(kind, days, rules)
          super(nil, days)
          @kind = kind
          @active_within = rules.active_within
        end

        def share? = true

        def states? = true

        # Until the instant of the run; activity on the day of it ended that.
        def lapsed? = @kind == CAME_BACK

        def to_s = KINDS.fetch(@kind)

        def key = @kind

        def message?(_catalogue) = false

        def about(people) = people.filter(Polars.col(lapsed? ? "lapsed" : "ruled"))

        def known_before = "the days inactive"

        private

        def at_the_end? = @kind == IS_ACTIVE

        def reach = at_the_end? ? @active_within - 1 : 0

        def rows(part, from, to)
          inside = Polars.col("day").is_between(from, [to, Calendar.number(part.as_of)].min)
          found = part.lifecycle.activity_rows(%w[profile_id day occurred_at]).map do |rows|
            rows.filter(inside).select([Polars.col("profile_id").cast(Polars::Int64),
                                        Polars.col("day").cast(Polars::Int32), Polars.col("occurred_at"),
                                        Polars.lit(1.0).alias("value")])
          end
          Polars.concat(found)
        end

        def after(found) = at_the_end? ? turns(found) : super

        # When somebody becomes new or active (1) and stops being so (-1), from the end of the day of the run on: each
        # day of activity lasts for `active_within` days, and days that follow each other within so many are one spell.
        def turns(found)
          days = found.filter(Polars.col("on") <= Polars.col("day") + @days)
                      .select([Polars.col("profile_id"), Polars.col("run"), offset]).unique
                      .filter(Polars.col("offset") > -@active_within).sort(%w[profile_id run offset])
          begins, ends = [1, -1].map do |step|
            other = Polars.col("offset").shift(step).over(%w[profile_id run])
            apart = (Polars.col("offset") - other) * step
            days.filter((apart > @active_within).fill_null(true))
          end
          lapses = ends.with_columns([(Polars.col("offset") + @active_within).alias("offset")])
          Polars.concat([turn(begins, 1.0), turn(lapses, -1.0)]).filter(Polars.col("offset") <= @days)
        end

        def turn(days, value)
          days.select([Polars.col("profile_id"), Polars.col("run"),
                       Polars.col("offset").clip(0, nil).cast(Polars::Int32), Polars.lit(value).alias("value")])
        end

        def before(_found, people)
          inactive = (Polars.col("inactive") + 1).log.alias("value")
          people.select([Polars.col("profile_id"), Polars.col("run"), inactive])
        end
      end
    end
  end
end
