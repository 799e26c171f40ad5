# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # Who was exported or held back by some runs of an export, and since when that counts: from the instant of the
      # run. Whoever was in several counts over all of them as what she was in the first, whatever came later (intention
      # to treat: J. M. Lachin, Controlled Clinical Trials 21 (2000), 167–189), so that the two groups stay those that
      # chance made.
      class Exposed
        COLUMNS = { "profile_id" => Polars::Int64, "run" => Polars::Int32, "held" => Polars::Boolean,
                    "day" => Polars::Int32, "at" => Polars::Int64, "first" => Polars::Boolean }.freeze
        private_constant :COLUMNS

        # @return [Array<Stored::Run>] those with a holdout, in their order
        attr_reader :runs
        # @return [Polars::DataFrame] one row per person and run: `profile_id`, `run` (its place), `held`, `day`
        #   (number) and `at` (instant) of the run, and whether it is the person's `first`
        attr_reader :rows

        # @param runs [Array<Stored::Run>]
        # @param calendar [Calendar]
        def initialize(runs, calendar)
          counted = runs.reject { |run| run.holdout.len.zero? }
          @without = runs.size - counted.size
          @instants = counted.to_h { |run| [run, run.at || calendar.end_of(run.as_of)] }
          @runs = counted.sort_by { |run| [@instants[run], run.id || 0] }
          @days = @runs.map { |run| Calendar.number(calendar.day_of(@instants[run])) }
          @rows = firsts(Polars.concat([none, *@runs.each_index.map { |place| of_run(place) }]))
        end

        # @return [Integer] runs that held nobody back
        attr_reader :without

        # @return [Array<Integer>] of each run, the number of the day on which it exported
        attr_reader :days

        # @return [Integer] people of the runs who have become part of another profile since
        def merged = runs.sum { |run| run.merged || 0 }

        # @return [Integer] people who were exported by one run and held back by another
        def switched
          groups = rows.group_by("profile_id").agg([Polars.col("held").n_unique.alias("groups")])
          groups.filter(Polars.col("groups") > 1).height
        end

        # @return [Array] names it completely
        def key = runs.map { |run| [run.id, run.as_of, run.at, run.planned, run.exported.len, run.holdout.len] }

        # How far the split of people is from the one that was planned: Pearson's χ² with one degree of freedom is the
        # square of this.
        #
        # @param people [Polars::DataFrame] some of {#rows}
        # @return [Float, nil] nil where it is not known what was planned
        def departure(people)
          shares = shares(people)
          return if shares.any? { |share, _| share.nil? }

          variance = shares.sum { |share, count| count * share * (1 - share) }
          variance < 1e-9 ? nil : (people["held"].sum - meant(shares)) / Math.sqrt(variance)
        end

        # @param people [Polars::DataFrame]
        # @return [Float] the share that was meant to be held back
        def planned(people) = meant(shares(people)) / people.height

        private

        # The share that was meant to be held back by each run, and how many are of it.
        def shares(people) = people["run"].value_counts.rows.map { |run, count| [runs[run].planned, count] }

        def meant(shares) = shares.sum { |share, count| share * count }

        def of_run(place)
          run = runs[place]
          fixed = { "run" => place, "day" => @days[place], "at" => @instants[run], "first" => true }
          both = [[run.exported, false], [run.holdout, true]].map do |ids, held|
            columns = { **fixed, "held" => held }.map { |name, value| Polars.lit(value).alias(name) }
            typed(ids.alias("profile_id").to_frame.with_columns(columns))
          end
          once(Polars.concat(both))
        end

        # Two who have become one count once; not at all where one was exported and the other held back.
        def once(rows)
          rows.unique(maintain_order: true).filter(Polars.col("held").n_unique.over("profile_id") == 1)
        end

        def typed(rows) = rows.select(COLUMNS.map { |name, type| Polars.col(name).cast(type) })

        def none = Ledger::Layout.empty(COLUMNS)

        # The runs stand in their order.
        def firsts(rows)
          rows.with_columns([(Polars.col("run") == Polars.col("run").min.over("profile_id")).alias("first")])
        end
      end
    end
  end
end
