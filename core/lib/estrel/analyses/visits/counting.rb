# frozen_string_literal: true

module Estrel
  module Analyses
    class Visits
      # Counts the visits of a part of the ledger.
      class Counting
        # Above every number of visits of a person, and every number of seconds that is told apart.
        MOST = 1 << 20
        HOURS = 7 * 24
        # Above every number of a day in the range, and every code; powers of two.
        DAYS = 1 << 16
        CODES = 1 << 16
        private_constant :DAYS, :CODES
        # A single amount, in thousandths, that is added up.
        LARGEST = 10**15

        # @param analysis [Visits]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
          @steps = analysis.steps
        end

        # @return [Hash{String, nil => Integer}] of each value, visits, people, microseconds, or thousandths of a sum
        #   above the visits
        def values
          order = @analysis.order
          return Sum.of(groups.counts(visits, @part, people: false), sums) if order == "sum"

          groups.counts(visits, @part, people: order == "people", weight: (order == "time" ? "length" : nil))
        end

        # @param labels [Array<Array>, nil] see {EventGroups#of}
        # @return [Hash{Symbol => Object}] for {Sum}: see {EventCounts.of}; by code microseconds of `time`, visits of a
        #   `single` event, and `days`, different days of a person; by code and seconds how many visits `lasted` so
        #   long; `often`, people by group and number of visits; `clock`, visits by group and hour of the week; of
        #   cohorts the `spent` microseconds by cohort and day since the first, and `heads` by the day on which people
        #   were first seen
        def to_h(labels)
          told = groups.of(visits, @part, labels).map { |rows| counted(rows) }
          { **told.reduce { |one, other| Sum.of(one, other) }, spent: spent, heads: heads }
        end

        private

        def groups = @analysis.groups

        # Values whose sums are alike are told apart by their visits, so sums count far more. A value below nothing
        # counts as nothing.
        def sums
          rows = summed_rows
          amount = (Polars.col("value").fill_null(0.0) * 1_000).round.clip(0, LARGEST).cast(Polars::Int64)
          rows = rows.with_columns([amount.alias("amount")])
          rows = beside_beginnings(rows) if @analysis.at_the_beginning?
          groups.counts(rows, @part, people: false, weight: "amount").transform_values { |sum| sum * MOST }
        end

        def summed_rows
          metric = @analysis.summed
          window = EventCounts.window(@steps)
          metric.selection.rows(@part, window, property: metric.property, beside: %w[visit_start])
        end

        # Rows as if they stood where the visit began that they lie in.
        def beside_beginnings(rows)
          began = visits.with_columns([Polars.col("occurred_at").alias("visit_start")])
          began = began.select(%w[profile_id visit_start occurred_at told].intersection(began.columns))
          rows.drop("occurred_at").join(began, on: %w[profile_id visit_start], how: "inner")
              .sort(%w[profile_id occurred_at])
        end

        def visits
          @visits ||= begin
            day = Polars.col("day")
            inside = day <= Calendar.number(@part.as_of)
            inside &= day >= Calendar.number(@analysis.from) unless newness?
            found = Estrel::Visits.listed(@part.ledger.spine.filter(inside))
            found = Newness.numbered(found) if newness?
            found = found.filter(day.is_between(Calendar.number(@analysis.from), Calendar.number(@analysis.to)))
            @analysis.first_property ? told(found) : found
          end
        end

        def newness? = groups.is_a?(Newness)

        # With the value of the event that began each; of several at one instant, of the first.
        def told(visits)
          split = @analysis.first_property
          key = Estrel::Visits::KEY
          frames = @part.catalogue.event_types.values.map do |type|
            Estrel::Visits.outermost(@part.ledger, type, @analysis.from, properties: split.properties)
                          .select([*key.map { |name| Polars.col(name) }, split.of(type, @part.calendar).alias("told")])
          end
          visits.join(Polars.concat(frames), on: key, how: "left")
        end

        def counted(rows)
          coded = rows.with_columns([code.alias("code")])
          { **EventCounts.of(coded, @steps, %i[people], personal: groups.personal?), **by_length(coded),
            days: Lifecycle::Tally.of(person_days(coded), Polars.col("code")), often: often(rows),
            clock: Lifecycle::Tally.of(rows.with_columns([hours(rows).alias("hour")]), (group * HOURS) + hour) }
        end

        # All that adds up over visits, from one look at them: by code and seconds first, which are few.
        def by_length(coded)
          key = (Polars.col("code").cast(Polars::Int64) * MOST) + seconds
          single = (Polars.col("events") == 1).cast(Polars::Int64)
          each = coded.lazy.select([key.alias("key"), Polars.col("length"), single.alias("single")]).group_by("key")
                      .agg([Polars.len.cast(Polars::Int64).alias("visits"), Polars.col("length").sum,
                            Polars.col("single").sum]).collect
          sums = each.with_columns([Polars.col("key").floordiv(MOST).alias("code")])
          of = ->(name) { Lifecycle::Tally.of(sums, Polars.col("code"), weight: name) }
          { lasted: each.select(%w[key visits]).rows.to_h, times: of["visits"], time: of["length"],
            single: of["single"] }
        end

        def group = Polars.col("group").cast(Polars::Int64)

        def code = (group * @steps.size) + (@steps.index(Polars.col("day")) - 1)

        def seconds = Polars.col("length").floordiv(Calendar::MICROS).clip(0, MOST - 1)

        def hour = (((Polars.col("day") + 3) % 7).cast(Polars::Int64) * 24) + Polars.col("hour")

        def hours(rows) = @part.calendar.hours(rows["occurred_at"], rows["day"])

        # A person's visits stand by time, but where those are of several groups.
        def person_days(coded)
          profile, day = %w[profile_id day].map { |name| Polars.col(name) }
          return days_of_groups(coded) unless groups.personal?

          days = coded.select(%w[profile_id day code])
          days.filter(((profile != profile.shift(1)) | (day != day.shift(1))).fill_null(true))
        end

        def days_of_groups(coded)
          day = Polars.col("day").cast(Polars::Int64) - Calendar.number(@analysis.from)
          number = (((Polars.col("profile_id") * DAYS) + day) * CODES) + Polars.col("code")
          Lifecycle::Tally.different(coded, number).select([(Polars.col("number") & (CODES - 1)).alias("code")])
        end

        def often(rows)
          each = groups.personal? ? runs(rows) : rows.group_by(%w[profile_id group]).agg([Polars.len.cast(Polars::Int64).alias("n")])
          Lifecycle::Tally.of(each, (group * MOST) + Polars.col("n").clip(0, MOST - 1))
        end

        # A person's visits stand together, and are all of one group.
        def runs(rows)
          profile, row = %w[profile_id row].map { |name| Polars.col(name) }
          firsts = rows.select(%w[profile_id group]).with_row_index(name: "row")
                       .filter((profile != profile.shift(1)).fill_null(true))
          firsts.with_columns([(row.shift(-1).fill_null(rows.height).cast(Polars::Int64) - row.cast(Polars::Int64)).alias("n")])
        end

        def since = Polars.col("first_seen_day")

        def new_people
          inside = since.is_between(Calendar.number(@analysis.from), Calendar.number(@analysis.to))
          @part.first_seen.filter(inside)
        end

        def heads = Lifecycle::Tally.of(new_people, since)

        def spent
          age = Polars.col("day") - since
          rows = visits.select(%w[profile_id day length]).join(new_people, on: "profile_id", how: "inner")
                       .filter(age.is_between(0, AGES - 1))
          Lifecycle::Tally.of(rows, ((@steps.index(since) - 1).cast(Polars::Int64) * AGES) + age, weight: "length")
        end
      end
    end
  end
end
