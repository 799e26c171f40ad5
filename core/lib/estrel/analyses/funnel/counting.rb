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
        #   steps; `over`, by period the like; `waits`, of the times from one step to the next by the same code, see
        #   {Waits.counted}
        def to_h(labels)
          each = of_groups(labels).map do |chains, told|
            { reached: reached(chains, &told), over: (over_time(chains, &told) if @analysis.steps) }
          end
          { **each.reduce { |one, other| Sum.of(one, other) }, waits: Waits.counted(placed(labels)) }
        end

        # @return [Polars::DataFrame] the times from one step to the next, see {Waits.placed}; remembered, being
        #   asked for twice
        def placed(labels)
          @part.remembered([:waits, @analysis.asked, labels]) do
            Waits.placed(Polars.concat(of_groups(labels).map { |chains, told| waits(chains, &told) }))
          end
        end

        private

        def groups = @analysis.groups

        # The events of a group that may be the first step.
        def beginnings(told, group)
          own = told.map { |rows| rows.filter(Polars.col("group") == group).select(@chains.first.columns) }
          Polars.concat(own).sort(%w[profile_id occurred_at])
        end

        # Chains that are counted together, and what gives rows of theirs their `group`, see {EventGroups#of}.
        def of_groups(labels)
          @of_groups ||=
            groups.personal? ? [[@chains, ->(rows) { groups.of(rows, @part, labels) }]] : by_first(labels)
        end

        # Of which group a chain is, is told by where it begins.
        def by_first(labels)
          told = groups.of(@chains.first, @part, labels)
          (0...[labels.size, 1].max).map do |group|
            [@chains.beginning(beginnings(told, group)),
             ->(rows) { [rows.with_columns([Polars.lit(group).alias("group")])] }]
          end
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

        def waits(chains, &told) = Polars.concat(chains.each_step { |at, rows| waited(rows, at, &told) })

        def first_of_each(rows)
          profile = Polars.col("profile_id")
          rows.filter(profile.ne_missing(profile.shift(1)))
        end

        def waited(rows, at, &)
          wait = (Polars.col("occurred_at") - Polars.col("before_at")).alias("wait")
          timed = [code(@analysis.needed[at]).alias("code"), Polars.col("wait")]
          Polars.concat(yield(rows.with_columns([wait])).map { |found| found.select(timed) })
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
