# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # Counts in a part of the ledger, split by split, group by group, and block of people by block, how many there are
      # in each period, people or visits, and how many of them did it, or how often.
      class Counting
        # In how many blocks people are told of, so that it can be told how much figures depend on whom there is.
        BLOCKS = 50

        # @param analysis [Change]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
        end

        # @return [Array<Hash{String, nil => Integer}>] of each split, how many have each value, both periods together
        def values
          inside = Polars.col("rest").is_not
          @analysis.splits.map do |split|
            both { |period| split.rows(self, period).filter(inside).group_by("told").agg([count]).rows.to_h }
          end
        end

        # @param labels [Array<Array>] of each split, see {Lifecycle::Grouping.labels}
        # @return [Array<Hash{Symbol => Hash}>] for {Sum}, of each split and, as if it were one group, of everybody: `n`
        #   and `y` by {.code}
        def to_h(labels)
          of_splits = @analysis.splits.zip(labels).map do |split, told|
            next {} if told.size < 2

            both { |period| tallies(numbered(split.rows(self, period), told), period, told.size + 1) }
          end
          everybody = Polars.lit(0).cast(Polars::Int32).alias("group")
          [*of_splits, both { |period| tallies(people(period).with_columns([everybody]), period, 1) }]
        end

        # @param period [Integer] 0 or 1
        # @param group [Integer]
        # @param groups [Integer] how many there are
        # @return [Integer] the code of its first block
        def self.code(period, group, groups) = ((period * groups) + group) * BLOCKS

        # @param period [Integer]
        # @return [Audience::Evaluator] of the eve of it
        def on_eve(period) = @part.at(@analysis.eve(period))

        # @return [Catalogue]
        def catalogue = @part.catalogue

        # @param period [Integer]
        # @return [Polars::DataFrame] all profiles of the part: `profile_id`, whether each `is` known by the end of the
        #   period and was `rest`, first seen in it; `n`, 1 where known; and `y`
        def people(period)
          (@people ||= {})[period] ||= begin
            since = Polars.col("first_seen_day")
            known = since <= Calendar.number(@analysis.days(period).end)
            found = @part.first_seen.join(done(period), on: "profile_id", how: "left")
            found.with_columns([known.cast(Polars::Int64).alias("n"), Polars.col("y").fill_null(0),
                                (since > Calendar.number(@analysis.eve(period))).alias("rest")])
                 .select(%w[profile_id n y rest])
          end
        end

        # @param period [Integer]
        # @param split [Audience::EventSplit]
        # @return [Polars::DataFrame] `profile_id`, `visit_start` and what the event that began it `told`
        def visits(period, split)
          first, last = @analysis.days(period).minmax
          key = Estrel::Visits::KEY
          inside = Polars.col("day").is_between(Calendar.number(first), Calendar.number(last + 1))
          visits = Estrel::Visits.listed(@part.ledger.spine.filter(inside))
                                 .filter(Polars.col("day") <= Calendar.number(last))
          frames = catalogue.event_types.values.map do |type|
            Estrel::Visits.outermost(@part.ledger, type, first, properties: split.properties)
                          .select([*key.map { |name| Polars.col(name) }, split.of(type, @part.calendar).alias("told")])
          end
          visits.join(Polars.concat(frames), on: key, how: "left")
                .select([Polars.col("profile_id"), Polars.col("occurred_at").alias("visit_start"), Polars.col("told")])
        end

        # @param period [Integer]
        # @return [Polars::DataFrame] `profile_id`, `visit_start` and how often it was done there, as `y`
        def done_in_visits(period)
          (@done_in_visits ||= {})[period] ||=
            rows(period, %w[visit_start]).group_by(%w[profile_id visit_start]).agg([count.alias("y")])
        end

        private

        def both(&) = [0, 1].map(&).reduce { |one, other| Sum.of(one, other) }

        def count = Polars.len.cast(Polars::Int64).alias("n")

        def rows(period, beside = [])
          first, last = @analysis.days(period).minmax
          @analysis.selection.rows(@part, Audience::Window.new(from: first, to: last), beside: beside)
        end

        def done(period)
          often = @analysis.times? ? count : Polars.lit(1).cast(Polars::Int64)
          rows(period).group_by("profile_id").agg([often.alias("y")])
        end

        def numbered(rows, labels)
          group = Lifecycle::Grouping.numbers(rows["told"], labels)
          rest = Polars.when(Polars.col("rest")).then(labels.size).otherwise(Polars.col("group")).alias("group")
          rows.with_columns([group]).with_columns([rest])
        end

        def tallies(rows, period, groups)
          code = (Polars.col("group").cast(Polars::Int64) * BLOCKS) + (Polars.col("profile_id") % BLOCKS)
          code += Counting.code(period, 0, groups)
          %w[n y].to_h { |name| [name.to_sym, Lifecycle::Tally.of(rows, code, weight: name)] }
        end
      end
    end
  end
end
