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
        def values = @analysis.groups.counts(@chains.first, @part, people: true)

        # @return [Hash{Symbol => Object}] for {Sum}: `reached`, how many people or visits got to a step, by group times
        #   twice the steps plus step, and those who went on from one that may be skipped, by as much plus the number of
        #   steps; `waits`, a data frame of the microseconds from one step to the next by the same `code` and how often
        #   each was (`n`); `over`, by period the like of `reached`
        def to_h(labels)
          { reached: reached(@chains, labels), waits: waits(labels), over: (over_time(labels) if @analysis.steps) }
        end

        private

        def chains(way)
          order = Audience::Definition.parse(@analysis.order(way), catalogue: @part.catalogue).root
          Chains.of(order, @part, @known)
        end

        # Groups are those of people.
        def reached(chains, labels)
          rows = @analysis.needed.zip(chains.reached).to_h
          @round.each do |at, around|
            rows[at], rows[at + @analysis.size] = around.beginning(chains.first).reached.last(2)
          end
          each = rows.map { |at, own| grouped(units(own), labels) { |told| Lifecycle::Tally.of(told, code(at)) } }
          each.reduce { |one, other| Sum.of(one, other) }
        end

        # People, or visits, once each.
        def units(rows)
          return first_of_each(rows) unless @analysis.visits?

          visits = rows.filter(Polars.col("visit_start").is_not_null)
          visits.unique(subset: %w[profile_id visit_start], maintain_order: true)
        end

        def grouped(rows, labels, &)
          @analysis.groups.of(rows, @part, labels).map(&).reduce { |one, other| Sum.of(one, other) }
        end

        def code(at) = (Polars.col("group").cast(Polars::Int64) * 2 * @analysis.size) + at

        def waits(labels) = Polars.concat(@chains.back { |at, rows| waited(rows, at, labels) })

        def first_of_each(rows)
          profile = Polars.col("profile_id")
          rows.filter(profile.ne_missing(profile.shift(1)))
        end

        def waited(rows, at, labels)
          wait = (Polars.col("occurred_at") - Polars.col("before_at")).alias("wait")
          rows = rows.with_columns([wait])
          each = @analysis.groups.of(rows, @part, labels).map do |told|
            told.lazy.select([code(@analysis.needed[at]).alias("code"), Polars.col("wait")]).group_by(%w[code wait])
                .agg([Polars.len.cast(Polars::Int64).alias("n")]).collect
          end
          Polars.concat(each)
        end

        # Period by period, since what began in one may go on in the next, and somebody may begin in several.
        def over_time(labels)
          @analysis.steps.days.each_cons(2).map do |before, last|
            began = @chains.first.filter(Polars.col("day").is_between(before + 1, last))
            began.height.zero? ? {} : reached(@chains.beginning(began), labels)
          end
        end
      end
    end
  end
end
