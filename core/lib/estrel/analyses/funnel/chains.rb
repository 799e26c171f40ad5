# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # The events of people that can be steps that follow each other, in a part of the ledger.
      #
      # Times between steps are those of one chain for each person. It reaches the furthest step; of the chains that do,
      # it ends first, and of these it starts last. From this start it goes through the earliest events that still lead
      # to its end.
      class Chains
        # @param order [Audience::Condition::Order]
        # @param part [Audience::Evaluator]
        # @param known [Hash] keeps events that are needed more than once
        # @return [Chains] the cheaper class where it suffices
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

        # @yieldparam step [Integer] number of a step, from the second to the last one
        # @yieldparam rows [Polars::DataFrame] `profile_id`, `occurred_at` and `before_at`, the instant of the step
        #   before, of everyone who reached the step
        # @return [Array<Object>] the block's results
        def each_step
          rows = starts
          on_the_way.each_with_index.map do |events, index|
            rows = next_step(rows, events)
            yield index + 1, rows
          end
        end

        private

        def candidates(number) = @order.candidates(number, @part)

        # Where the chain of everyone who reached the second step starts.
        def starts
          (reached.size - 1).downto(1).reduce(nil) do |later, step|
            with_before(step, later).select([Polars.col("profile_id"), Polars.col("before_at").alias("occurred_at")])
          end
        end

        def next_step(rows, events)
          at = @part.timeline.look_forward(numbered(rows), events).alias("occurred_at")
          rows.select([Polars.col("profile_id"), Polars.col("occurred_at").alias("before_at")]).with_columns([at])
              .filter(Polars.col("occurred_at").is_not_null)
        end

        # For each step from the second on, the events from which the end of the person's chain can be reached: that
        # end itself, and before it all that are followed as the order says.
        def on_the_way
          last = reached.size - 1
          last.downto(1).reduce([]) do |later, step|
            ends = first_of_each(reached[step])
            next [ends] if later.empty?

            on = @order.steps[step + 1].link.followed(reached[step], later.first, @part)
            ends = ends.join(later.first, on: "profile_id", how: "anti").select(on.columns)
            [Polars.concat([on, ends]).sort(%w[profile_id occurred_at]), *later]
          end
        end

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

        # The same where any later event goes on, however much later. Going on from the earliest event gets furthest
        # then, so only that event of each person is looked for.
        class Earliest < Chains
          # @return [Array<Polars::DataFrame>] for each step the earliest event of each person that can be it
          def reached
            @reached ||= (1...@order.steps.size).reduce([first_of_each(first)]) do |steps, number|
              [*steps, after(steps.last, candidates(number))]
            end
          end

          private

          def after(rows, candidates)
            at = @part.timeline.look_forward(rows, candidates).alias("occurred_at")
            numbered(rows.select("profile_id").with_columns([at]).filter(Polars.col("occurred_at").is_not_null))
          end

          def on_the_way = (1...@order.steps.size).map { |number| candidates(number) }

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
