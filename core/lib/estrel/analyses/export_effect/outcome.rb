# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What may have come of an export: that people did something, or how much they have of something, from the instant
      # of the run to the end of some days after the day of it. What became of their states is {LifecycleOutcome}.
      class Outcome
        # @param json [Hash, nil] a {Metric} (of people where nothing else is said) or the `lifecycle` outcome of
        #   {LifecycleOutcome::KINDS}; nil: coming back
        # @param days [Integer]
        # @param workspace [Workspace]
        # @param place [String] where it stands, for faults
        # @return [Outcome]
        # @raise [Invalid]
        # @raise [Analysis::NoRules]
        def self.parse(json, days, workspace, place = "metric")
          kind = json.nil? ? LifecycleOutcome::CAME_BACK : json["lifecycle"]
          return new(Metric.parse({ "measure" => "people", **json }, workspace.catalogue, place), days) unless kind

          rules = workspace.rules or
            raise Analysis::NoRules, "no event type counts as activity yet; choose one under Lifecycle → Rules"
          LifecycleOutcome.new(kind, days, rules)
        end

        # @param metric [Metric]
        # @param days [Integer]
        def initialize(metric, days)
          @metric = metric
          @days = days
        end

        # @return [Boolean] whether it is a share of people
        def share? = @metric.share?

        # @return [Boolean] whether it is a sum of numbers, which is cut, see {Statistics::SkewedMeans}
        def cut? = !share? && !@metric.property.nil?

        # @return [Boolean] whether it needs to be known how people stood, see {Standing}
        def states? = false

        # @return [Boolean] whether it is about those alone who were dormant or churned
        def lapsed? = false

        # @return [String] "came back", "ended a ride", "total price (pass bought) per person"
        def to_s = share? ? @metric.to_s : "#{@metric} per person"

        # @return [Object] names it completely
        def key = @metric.key

        # @param catalogue [Catalogue]
        # @return [Boolean] whether it is a message itself
        def message?(catalogue)
          events = @metric.selection.events or return false
          kinds = Campaigns::Messaging::KINDS.map { |kind| catalogue.messaging.event(kind) }
          events.all? { |event| kinds.include?(event) }
        end

        # @param people [Polars::DataFrame] with what {Standing} says
        # @return [Polars::DataFrame] those it is about
        def about(people) = people

        # @param part [Audience::Evaluator]
        # @param people [Polars::DataFrame] of the part: `profile_id`, `run`, `day`, `at`, `inactive`
        # @return [Hash{Symbol => Polars::DataFrame}] `after`, by `profile_id`, `run` and `offset` (days since the run)
        #   the `value`, which add up: of a share to 1, of numbers to their sum; and `before`, by person and run what is
        #   known of them from before: as much as in so many days before, or days inactive
        def of(part, people)
          return { after: no_values(%w[offset]), before: no_values } if people.height.zero?

          all = rows(part, people["day"].min - reach, people["day"].max + @days)
          found = all.rename({ "day" => "on" }).join(people.select(%w[profile_id run day at]), on: "profile_id",
                                                                                               how: "inner")
          { after: after(found), before: before(found, people) }
        end

        # @return [String] what is known of everybody from before
        def known_before = "the same in the #{English.counted(@days, "day")} before"

        private

        # How many days before a run are looked at.
        def reach = @days

        def rows(part, from, to)
          window = Audience::Window.from_h("from" => date(from),
                                           "to" => [date(to), part.as_of.iso8601].min)
          value = @metric.property ? Polars.col("value").fill_null(0.0).cast(Polars::Float64) : Polars.lit(1.0)
          @metric.selection.rows(part, window, property: @metric.property)
                 .select([*%w[profile_id day occurred_at].map { |name| Polars.col(name) }, value.alias("value")])
        end

        def date(number) = Calendar.date(number).iso8601

        def offset = (Polars.col("on") - Polars.col("day")).cast(Polars::Int32).alias("offset")

        # Of a share the first day counts.
        def after(found)
          rows = found.lazy.filter((Polars.col("occurred_at") >= Polars.col("at")) &
                                   (Polars.col("on") <= Polars.col("day") + @days))
                      .select([Polars.col("profile_id"), Polars.col("run"), offset, Polars.col("value")])
          return rows.group_by(%w[profile_id run offset]).agg([Polars.col("value").sum]).collect unless share?

          rows.group_by(%w[profile_id run]).agg([Polars.col("offset").min, Polars.lit(1.0).alias("value")]).collect
              .select(%w[profile_id run offset value])
        end

        def before(found, _people)
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
