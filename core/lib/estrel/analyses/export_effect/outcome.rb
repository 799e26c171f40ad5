# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What may have come of an export: that people came back, that they did something, or how much they have of
      # something, from the instant of the run to the end of some days after the day of it.
      class Outcome
        # @return [Metric, nil] nil: coming back
        attr_reader :metric

        # @param metric [Metric, nil]
        # @param days [Integer]
        def initialize(metric, days)
          @metric = metric
          @days = days
        end

        # @return [Boolean] whether it is a share of people
        def share? = metric.nil? || metric.share?

        # @return [Boolean] whether it is a sum of numbers, which is cut, see {Statistics::SkewedMeans}
        def cut? = !share? && !metric.property.nil?

        # @return [String] "came back", "ended a ride", "total price (pass bought) per person"
        def to_s
          return "came back" if metric.nil?

          share? ? metric.to_s : "#{metric} per person"
        end

        # @return [Array] names it completely
        def key = metric&.key

        # @param catalogue [Catalogue]
        # @return [Boolean] whether it is a message itself
        def message?(catalogue)
          events = metric&.selection&.events or return false
          kinds = Campaigns::Messaging::KINDS.map { |kind| catalogue.messaging.event(kind) }
          events.all? { |event| kinds.include?(event) }
        end

        # Whom it is about: of coming back, those who were dormant or churned until the instant of the run.
        #
        # @param people [Polars::DataFrame] with `lapsed`
        # @return [Polars::DataFrame]
        def about(people) = metric ? people : people.filter(Polars.col("lapsed"))

        # @param part [Audience::Evaluator]
        # @param people [Polars::DataFrame] of the part: `profile_id`, `run`, `day`, `at`, `inactive`
        # @return [Hash{Symbol => Polars::DataFrame}] `after`, by `profile_id`, `run` and `offset` (days since the run)
        #   the `value`: of a share 1 on the first day, of numbers their sum; and `before`, by person and run what is
        #   known of them from before: as much as in so many days before, or days inactive
        def of(part, people)
          return { after: no_values(%w[offset]), before: no_values } if people.height.zero?

          from = people["day"].min
          to = people["day"].max
          all = metric ? rows(part, from - @days, to + @days) : activity(part, from, to + @days)
          found = all.rename({ "day" => "on" }).join(people.select(%w[profile_id run day at]), on: "profile_id",
                                                                                               how: "inner")
          { after: after(found), before: before(found, people) }
        end

        # @return [String] what is known of everybody from before
        def known_before = metric ? "the same in the #{English.counted(@days, "day")} before" : "the days inactive"

        private

        def rows(part, from, to)
          window = Audience::Window.from_h("from" => date(from),
                                           "to" => [date(to), part.as_of.iso8601].min)
          value = metric.property ? Polars.col("value").fill_null(0.0).cast(Polars::Float64) : Polars.lit(1.0)
          metric.selection.rows(part, window, property: metric.property)
                .select([*%w[profile_id day occurred_at].map { |name| Polars.col(name) }, value.alias("value")])
        end

        def activity(part, from, to)
          inside = Polars.col("day").is_between(from, [to, Calendar.number(part.as_of)].min)
          columns = %w[profile_id day occurred_at]
          found = part.lifecycle.activity_rows(columns).map do |rows|
            rows.filter(inside).select([Polars.col("profile_id").cast(Polars::Int64),
                                        Polars.col("day").cast(Polars::Int32), Polars.col("occurred_at"),
                                        Polars.lit(1.0).alias("value")])
          end
          Polars.concat(found)
        end

        def date(number) = Calendar.date(number).iso8601

        def after(found)
          since = (Polars.col("on") - Polars.col("day")).cast(Polars::Int32).alias("offset")
          rows = found.lazy.filter((Polars.col("occurred_at") >= Polars.col("at")) &
                                   (Polars.col("on") <= Polars.col("day") + @days))
                      .select([Polars.col("profile_id"), Polars.col("run"), since, Polars.col("value")])
          return rows.group_by(%w[profile_id run offset]).agg([Polars.col("value").sum]).collect unless share?

          rows.group_by(%w[profile_id run]).agg([Polars.col("offset").min, Polars.lit(1.0).alias("value")]).collect
              .select(%w[profile_id run offset value])
        end

        def before(found, people)
          unless metric
            inactive = (Polars.col("inactive") + 1).log.alias("value")
            return people.select([Polars.col("profile_id"), Polars.col("run"), inactive])
          end

          value = share? ? Polars.lit(1.0) : Polars.col("value").sum
          found.lazy.filter(Polars.col("on").is_between(Polars.col("day") - @days, Polars.col("day") - 1))
               .group_by(%w[profile_id run]).agg([value.alias("value")]).collect
        end

        def no_values(more = [])
          types = { "profile_id" => Polars::Int64, "run" => Polars::Int32, **more.to_h { |name| [name, Polars::Int32] },
                    "value" => Polars::Float64 }
          Ledger::Layout.empty(types)
        end
      end
    end
  end
end
