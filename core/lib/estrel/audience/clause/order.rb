# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *order*: steps that follow each other, each later than the one before, linked as it says; and, where wanted,
      # what was then not done within some time. Events at the same instant do not follow each other. Frozen.
      #
      # Of all events that can be the step before, the latest is the best one to go on from: it is the nearest in time
      # and in the same visit if any is. So one look back per event finds out whether it can be reached.
      class Order
        # One step: what happened, and the {Link} from the step before (nil for the first).
        Step = Struct.new(:selection, :link) do
          def to_h = { **selection.to_h, **link.to_h }
        end
        # What must not follow: a selection and the time within which, microseconds and as written.
        Absence = Struct.new(:selection, :within, :written) do
          def to_h = { **selection.to_h, "within" => written }
        end

        # @return [Array<Step>]
        attr_reader :steps
        # @return [Window]
        attr_reader :window
        # @return [Absence, nil]
        attr_reader :absence

        def initialize(steps, window, absence: nil)
          @steps = steps.freeze
          @window = window
          @absence = absence
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          ends = last_step(evaluator)
          if absence
            ends = unfollowed(ends.select(Selection::COLUMNS).collect, evaluator)
            ends = ends.lazy.filter(Polars.col("occurred_at") < waited_since(evaluator))
          end
          profile = Polars.col("profile_id")
          once = ends.select("profile_id").filter(profile.ne_missing(profile.shift(1))).collect
          evaluator.membership(once["profile_id"])
        end

        # @param evaluator [Evaluator]
        # @return [Array<Polars::DataFrame>] for each step the events that can be it
        def reached_steps(evaluator)
          found = [steps.first.selection.rows(evaluator, window, keyed: true)]
          steps.drop(1).each { |step| found << after(found.last, step, evaluator).collect }
          found
        end

        # Those who have done the steps and not yet what must not follow, while there is still time for it.
        #
        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def undecided(evaluator)
          return evaluator.constant(false) unless absence

          ends = unfollowed(last_step(evaluator).select(Selection::COLUMNS).collect, evaluator)
          open = ends.filter(Polars.col("occurred_at") >= waited_since(evaluator))
          evaluator.membership(open["profile_id"]) & evaluator.invert(mask(evaluator))
        end

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h
          { "order" => { "steps" => steps.map(&:to_h), "window" => window.to_h, "then_not" => absence&.to_h }.compact }
        end

        private

        # The events that can be the last step.
        def last_step(evaluator)
          first, *rest = steps
          rest.reduce(first.selection.rows(evaluator, window, keyed: true).lazy) do |done, step|
            after(done.collect, step, evaluator)
          end
        end

        def after(done, step, evaluator)
          candidates = step.selection.rows(evaluator, window, keyed: true)
          step.link.following(done, candidates, evaluator, window)
        end

        # Without the ends that were followed by what must not follow, within the time and by the as-of date.
        def unfollowed(ends, evaluator)
          followers = absence.selection.rows(evaluator, Window.new)
                             .select(%w[profile_id
                                        occurred_at]).with_columns([Polars.col("occurred_at").alias("next_at")])
          wanted = ends.with_columns([(Polars.col("occurred_at") + 1).alias("look")]).sort(%w[profile_id look])
          joined = wanted.join_asof(followers, left_on: "look", right_on: "occurred_at", by: "profile_id",
                                               strategy: "forward")
          late = Polars.col("next_at") > Polars.col("occurred_at") + absence.within
          joined.filter(Polars.col("next_at").is_null | late)
        end

        # The time to wait has passed for ends before this instant.
        def waited_since(evaluator) = evaluator.calendar.end_of(evaluator.as_of) - absence.within
      end
    end
  end
end
