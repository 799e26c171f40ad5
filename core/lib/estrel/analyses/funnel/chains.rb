# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # Which events of people can be steps that follow each other, in a part of the ledger.
      #
      # Times are those of one chain of each person: the one that gets furthest, of these the one that ends first, of
      # these the one that starts last. Going back from its end, each time to the latest event that can be the step
      # before, gives it.
      class Chains
        # @param order [Audience::Condition::Order]
        # @param part [Audience::Evaluator]
        # @param known [Hash] keeps events that are looked at more than once
        # @return [Chains] the cheaper kind where that will do
        def self.of(order, part, known) = (order.free? ? Earliest : Chains).new(order, part, known)

        # @param order [Audience::Condition::Order]
        # @param part [Audience::Evaluator]
        # @param known [Hash] see {of}
        # @param first [Polars::DataFrame, nil] events that may be the first step; nil for all
        def initialize(order, part, known, first = nil)
          @order = order
          @part = part
          @known = known
          @first = first
        end

        # @return [Polars::DataFrame] the events that may be the first step
        def first = @first ||= candidates(0)

        # @param first [Polars::DataFrame] of {#first}
        # @return [Chains] of those that begin with one of these
        def beginning(first) = self.class.new(@order, @part, @known, first)

        # @return [Array<Polars::DataFrame>] for each step events that can be it, sorted by profile and time, with at
        #   least the first of each person
        def reached = @reached ||= @order.reached_steps(@part, first)

        # @yieldparam at [Integer] number of a step, from the last one to the second
        # @yieldparam rows [Polars::DataFrame] `profile_id`, `occurred_at` and `before_at`, when the step before was, of
        #   everybody who got that far
        # @return [Array] what the block returns, each
        def back
          ends = nil
          (reached.size - 1).downto(1).map do |at|
            rows = with_before(at, ends)
            ends = rows.select([Polars.col("profile_id"), Polars.col("before_at").alias("occurred_at")])
            yield at, rows
          end
        end

        private

        def candidates(number) = @order.candidates(number, @part)

        # Where the chains of those who got further were at a step, and the first event of everybody else there.
        def with_before(at, further)
          here = first_of_each(reached[at]).select(%w[profile_id occurred_at before_at])
          return here unless further

          before = @part.timeline.look_at(numbered(further), reached[at], "before_at").alias("before_at")
          joined(further.with_columns([before]), here)
        end

        def joined(further, here)
          Polars.concat([further, here.join(further, on: "profile_id", how: "anti")]).sort("profile_id")
        end

        def numbered(rows) = @part.timeline.numbered(rows)

        def first_of_each(rows)
          profile = Polars.col("profile_id")
          rows.filter(profile.ne_missing(profile.shift(1)))
        end

        # The same where any later event goes on, however much later. Then whoever goes on from the earliest one gets
        # furthest, so of each person only that is looked for.
        class Earliest < Chains
          # @return [Array<Polars::DataFrame>] for each step the earliest event of each person that can be it
          def reached
            @reached ||= (1...@order.steps.size).reduce([first_of_each(first)]) do |found, number|
              [*found, after(found.last, candidates(number))]
            end
          end

          private

          def after(rows, candidates)
            at = @part.timeline.look_forward(rows, candidates).alias("occurred_at")
            numbered(rows.select("profile_id").with_columns([at]).filter(Polars.col("occurred_at").is_not_null))
          end

          def with_before(at, further)
            here = reached[at].select(%w[profile_id occurred_at])
            here = joined(further, here) if further
            before = @part.timeline.look_back(numbered(here), at == 1 ? first : candidates(at - 1))
            here.with_columns([before.alias("before_at")])
          end

          def candidates(number) = @known[@order.steps[number].selection.to_h] ||= super
        end
        private_constant :Earliest
      end
    end
  end
end
