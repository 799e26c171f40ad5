# frozen_string_literal: true

module Estrel
  module Analyses
    # How often people do something over some days: how many did it once, twice and so on, counted by events, days,
    # weeks or visits; several events or groups beside each other, and how that goes over time. Everybody's number adds
    # up over the parts.
    class Frequency < Analysis
      include OfEvents
      include AtTheTime

      # Days looked at unless others are asked for.
      DAYS = 30
      # Where the buckets begin unless something else is asked.
      EDGES = [1, 2, 3, 4, 5, 6, 11, 21].freeze
      # Whole weeks.
      YEAR = 364
      # Above every number of times.
      MOST = 1 << 20
      # Lines beside each other, and periods over time, at most.
      MOST_LINES = 12
      MOST_PERIODS = 400

      # @param range [Range<Integer>] a bucket
      # @return [String] "3", "6–10", "21 or more"
      def self.said(range)
        return "#{English.number(range.begin)} or more" if range.end.nil?

        [range.begin, range.end].uniq.map { |number| English.number(number) }.join("–")
      end

      def partial(part, found)
        return values_in(part, people: true) { |selection| rows(selection, part, range) } if counting?(found)

        told = labels(found)
        { series: selections.map { |selection| counted(selection, part, told) }, all: everybody(part, told) }
      end

      def answer(found)
        lines = Lines.new(self, groups.named(labels(found)), found.last)
        Answer.new(finding: Finding.new(self, lines.all).to_s, picture: picture(lines.all), caveats: caveats,
                   tables: Tables.new(self, lines.all).all)
      end

      # @return [String] of {Audience::Count::UNITS}
      def unit = question["unit"] || "events"

      # Where the first edge of the question is above 1, those below it are a bucket too: shares, mean and median are of
      # the same people.
      #
      # @return [Array<Integer>] the least number of each bucket
      def edges
        edges = question["edges"] || EDGES
        edges.first == 1 ? edges : [1, *edges]
      end

      # @return [Boolean] whether those who did not do it at all are a bucket of their own
      def of_all? = question["of_all"] == true

      # @return [Array<Range<Integer>>] the numbers of each bucket; endless the last
      def buckets
        ranges = edges.each_cons(2).map { |from, after| from..(after - 1) } << (edges.last..)
        of_all? ? [0..0, *ranges] : ranges
      end

      # @return [Lifecycle::Steps] the days, as one period
      def range = @range ||= Lifecycle::Steps.between(from - 1, workspace.as_of)

      # @return [Lifecycle::Steps, nil] as many days before, or the same days of the week a year before
      def behind
        days = question["behind"] == "year" ? YEAR : workspace.as_of - from + 1
        @behind ||= question["behind"] && Lifecycle::Steps.between(from - 1 - days, workspace.as_of - days)
      end

      # @param line [Line]
      # @param range [Range<Integer>] a bucket
      # @return [Hash] the condition, as JSON, of whoever of the line is in it
      def people_in(line, range) = people_of(line.group) { |where| [line.did_so_often(range, unit, where)] }

      # @return [Lifecycle::Steps, nil] the periods, where it is asked how the buckets go over time
      def steps
        return unless question["over_time"]

        @steps ||= steps_of_range.tap do |found|
          next if found.size <= MOST_PERIODS

          raise Invalid.at("step", "too many intervals (#{English.counted(found.size - 1, found.unit)}); choose a " \
                                   "longer one")
        end
      end

      private

      def rests_on
        check
        [*super, range.key, steps&.key]
      end

      def check
        raise Invalid.at("from", "the start date is after the as-of date") if from > workspace.as_of
        unless edges.each_cons(2).all? { |one, other| one < other }
          raise Invalid.at("edges", "boundaries must be in ascending order")
        end

        check_lines("groups of bars")
      end

      def from = day("from") || (workspace.as_of - DAYS + 1)

      def first_looked_at = [range, behind].compact.map { |one| one.dates.first + 1 }.min

      # Those who did not do it at all are of a value on the as-of date alone.
      def told_parts = of_all? ? [[], [split].compact] : super

      # The first day of the steps, see {Analysis#steps_of_range}.
      def first_day = from

      def rows(selection, part, steps)
        found = selection.rows(part, EventCounts.window(steps), beside: unit == "visits" ? %w[visit_start] : [])
        unit == "visits" ? found.filter(Polars.col("visit_start").is_not_null) : found
      end

      # By group, see {EventGroups#of}, and what a row is about: how many people did it so often.
      def counted(selection, part, told)
        { now: often(rows(selection, part, range), part, told),
          behind: (often(rows(selection, part, behind), part, told) if behind),
          over: (over_time(rows(selection, part, steps), part, told) if steps) }
      end

      def often(rows, part, told)
        by_group(rows, part, told) { |group| Lifecycle::Tally.of(per_person(group), code(Polars.col("n"))) }
      end

      # By period, then by bucket.
      def over_time(rows, part, told)
        by_group(rows, part, told) do |group|
          at = (steps.index(Polars.col("day")) - 1).cast(Polars::Int64).alias("at")
          each = per_person(group.with_columns([at]), ["at"])
          place = (Polars.col("group").cast(Polars::Int64) * (steps.size - 1)) + Polars.col("at")
          Lifecycle::Tally.of(each, (place * edges.size) + bucket(Polars.col("n")))
        end
      end

      def by_group(rows, part, told, &)
        groups.of(rows, part, told).map(&).reduce { |one, other| Sum.of(one, other) }
      end

      def code(number) = (Polars.col("group").cast(Polars::Int64) * MOST) + number.clip(0, MOST - 1)

      def bucket(number)
        edges.drop(1).sum(Polars.lit(0)) { |edge| (number >= edge).cast(Polars::Int64) }
      end

      # How often each person did it; what is counted never falls from one row of a person to the next.
      def per_person(rows, by = [])
        day = Polars.col("day")
        column = { "days" => day, "weeks" => Calendar.weeks(day), "visits" => Polars.col("visit_start") }[unit]
        number = column ? column.ne_missing(column.shift(1)).sum : Polars.len
        rows.group_by(["profile_id", "group", *by]).agg([number.cast(Polars::Int64).alias("n")])
      end

      # How many people each group has.
      def everybody(part, told)
        return {} unless of_all?

        seen = part.ids.alias("profile_id").to_frame.filter(part.seen(workspace.as_of))
        by_group(seen, part, told) { |group| Lifecycle::Tally.of(group, Polars.col("group")) }
      end

      def picture(lines)
        { from: from, to: workspace.as_of, unit: unit, of_all: of_all?,
          behind: behind && { from: behind.dates.first + 1, to: behind.dates.last },
          buckets: buckets.map { |range| { from: range.begin, to: range.end, said: Frequency.said(range) } },
          periods: steps&.periods(workspace.today), rows: lines.map(&:to_h) }
      end

      def caveats
        found = []
        found << "People in several audiences count in each." if audiences.size > 1 && !split
        found << "Events outside visits, such as system messages, are not counted." if unit == "visits"
        return [*found, *(as_known if split&.changes?)] if of_all?

        found += told_by("at the time of the event")
        found << "People with several values in this period count under each, with the events of that time." if moving
        found
      end
    end
  end
end
