# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # Counts who got to each step in a part of the ledger, and how long that took.
      #
      # Times are those of one chain of each person: the one that gets furthest, of these the one that ends first, of
      # these the one that starts last. Going back from its end, each time to the latest event that can be the step
      # before, gives it.
      class Counting
        # @param analysis [Funnel]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
          @order = order(analysis.needed)
          # By the number of each step that may be skipped.
          @round = analysis.optional.to_h { |at| [at, order([*analysis.way(at), analysis.after(at)])] }
        end

        # @return [Hash{String, nil => Integer}] see {EventGroups#counts}
        def values = @analysis.groups.counts(@order.first_step(@part), @part, people: true)

        # @return [Hash{Symbol => Object}] for {Sum}: `reached`, how many people or visits got to a step, by group times
        #   twice the steps plus step, and those who went on from one that may be skipped, by as much plus the number of
        #   steps; `waits`, a data frame of the microseconds from one step to the next by the same `code` and how often
        #   each was (`n`); `over`, by period the like of `reached`
        def to_h(labels)
          first = @order.first_step(@part)
          found = @order.reached_steps(@part, first)
          { reached: reached(found, labels), waits: waits(found, labels),
            over: (over_time(first, labels) if @analysis.steps) }
        end

        private

        def order(way) = Audience::Definition.parse(@analysis.order(way), catalogue: @part.catalogue).root

        # Groups are those of people.
        def reached(found, labels)
          rows = @analysis.needed.zip(found).to_h
          @round.each do |at, order|
            rows[at], rows[at + @analysis.size] = order.reached_steps(@part, found.first).last(2)
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

        # From the furthest step of each person back to the first.
        def waits(found, labels)
          frames = []
          ends = nil
          (found.size - 1).downto(1) do |at|
            ends = at_step(found[at], ends)
            frames << waited(ends, at, labels)
            ends = ends.select([Polars.col("profile_id"), Polars.col("before_at").alias("occurred_at")])
          end
          Polars.concat(frames)
        end

        # Where the chains of those who got further were at a step, and the first event of everybody else there.
        def at_step(rows, further)
          wanted = rows.select(%w[profile_id occurred_at before_at])
                       .unique(subset: %w[profile_id occurred_at], maintain_order: true, keep: "first")
          return first_of_each(wanted) unless further

          others = wanted.join(further, on: "profile_id", how: "anti")
          Polars.concat([wanted.join(further, on: %w[profile_id occurred_at], how: "semi"), first_of_each(others)])
        end

        def first_of_each(rows)
          profile = Polars.col("profile_id")
          rows.filter(profile.ne_missing(profile.shift(1)))
        end

        def waited(ends, at, labels)
          wait = (Polars.col("occurred_at") - Polars.col("before_at")).alias("wait")
          rows = ends.sort("profile_id").with_columns([wait])
          each = @analysis.groups.of(rows, @part, labels).map do |told|
            told.lazy.select([code(@analysis.needed[at]).alias("code"), Polars.col("wait")]).group_by(%w[code wait])
                .agg([Polars.len.cast(Polars::Int64).alias("n")]).collect
          end
          Polars.concat(each)
        end

        # Period by period, since what began in one may go on in the next, and somebody may begin in several.
        def over_time(first, labels)
          @analysis.steps.days.each_cons(2).map do |before, last|
            began = first.filter(Polars.col("day").is_between(before + 1, last))
            began.height.zero? ? {} : reached(@order.reached_steps(@part, began), labels)
          end
        end
      end
    end
  end
end
