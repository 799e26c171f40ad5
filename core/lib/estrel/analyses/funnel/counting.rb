# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # Counts who got to each step in a part of the ledger, and how long that took, see {Chains}.
      class Counting
        # @param analysis [Funnel]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
          @known = {}
          @chains = chains(analysis.needed)
          # By the number of each step that may be skipped.
          @round = analysis.optional.to_h { |at| [at, chains([*analysis.way(at), analysis.after(at)])] }
        end

        # @return [Hash{String, nil => Integer}] see {EventGroups#counts}
        def values = groups.counts(@chains.first, @part, people: true)

        # @return [Hash{Symbol => Object}] for {Sum}: `reached`, how many people or visits got to a step, by group times
        #   twice the steps plus step, and those who went on from one that may be skipped, by as much plus the number of
        #   steps; `waits`, a data frame of the microseconds from one step to the next by the same `code` and how often
        #   each was (`n`); `over`, by period the like of `reached`
        def to_h(labels)
          return counted(@chains) { |rows| groups.of(rows, @part, labels) } if groups.personal?

          told = groups.of(@chains.first, @part, labels)
          each = (0...[labels.size, 1].max).map do |group|
            counted(@chains.beginning(beginnings(told, group))) do |rows|
              [rows.with_columns([Polars.lit(group).alias("group")])]
            end
          end
          each.reduce { |one, other| Sum.of(one, other) }
        end

        private

        def groups = @analysis.groups

        # The events of a group that may be the first step.
        def beginnings(told, group)
          own = told.map { |rows| rows.filter(Polars.col("group") == group).select(@chains.first.columns) }
          Polars.concat(own).sort(%w[profile_id occurred_at])
        end

        # @yieldparam rows [Polars::DataFrame]
        # @yieldreturn [Array<Polars::DataFrame>] the same with the `group`, see {EventGroups#of}
        def counted(chains, &)
          { reached: reached(chains, &), waits: waits(chains, &),
            over: (over_time(chains, &) if @analysis.steps) }
        end

        def chains(way)
          order = Audience::Definition.parse(@analysis.order(way), catalogue: @part.catalogue).root
          Chains.of(order, @part, @known)
        end

        def reached(chains, &)
          rows = @analysis.needed.zip(chains.reached).to_h
          @round.each do |at, around|
            rows[at], rows[at + @analysis.size] = around.beginning(chains.first).reached.last(2)
          end
          each = rows.flat_map { |at, own| yield(units(own)).map { |found| Lifecycle::Tally.of(found, code(at)) } }
          each.reduce { |one, other| Sum.of(one, other) }
        end

        # People, or visits, once each.
        def units(rows)
          return first_of_each(rows) unless @analysis.visits?

          visits = rows.filter(Polars.col("visit_start").is_not_null)
          visits.unique(subset: %w[profile_id visit_start], maintain_order: true)
        end

        def code(at) = (Polars.col("group").cast(Polars::Int64) * 2 * @analysis.size) + at

        def waits(chains, &told) = Polars.concat(chains.back { |at, rows| waited(rows, at, &told) })

        def first_of_each(rows)
          profile = Polars.col("profile_id")
          rows.filter(profile.ne_missing(profile.shift(1)))
        end

        def waited(rows, at, &)
          wait = (Polars.col("occurred_at") - Polars.col("before_at")).alias("wait")
          rows = rows.with_columns([wait])
          each = yield(rows).map do |found|
            found.lazy.select([code(@analysis.needed[at]).alias("code"), Polars.col("wait")]).group_by(%w[code wait])
                 .agg([Polars.len.cast(Polars::Int64).alias("n")]).collect
          end
          Polars.concat(each)
        end

        # Period by period, since what began in one may go on in the next, and somebody may begin in several.
        def over_time(chains, &told)
          @analysis.steps.days.each_cons(2).map do |before, last|
            began = chains.first.filter(Polars.col("day").is_between(before + 1, last))
            began.height.zero? ? {} : reached(chains.beginning(began), &told)
          end
        end
      end
    end
  end
end
