# frozen_string_literal: true

module Estrel
  class Lifecycle
    # What the gaps in activity say about the day counts of a rule set: the chance of reactivation after so many
    # inactive days, which counts keep it under a chosen share, and what is wrong with those in use.
    class Thresholds
      # Days within which somebody is reactivated or not, where the analyst names no others.
      HORIZON = 90
      # The share of those called churned who may be reactivated, where the analyst names no other.
      SHARE = 0.1
      # The share of those called dormant who may be reactivated.
      DORMANT_SHARE = 0.5
      # Nothing is suggested of days that fewer people have been inactive for.
      ENOUGH = 50

      # @return [KaplanMeier]
      def estimate = @survival.whole

      # @param survival [ClusteredSurvival] of the gaps in activity
      # @param rule_set [RuleSet]
      # @param horizon [Integer] days
      # @param at_risk [Hash{Integer => Integer}] people who have been inactive for longer than so many days
      def initialize(survival, rule_set, horizon: HORIZON, at_risk: {})
        @survival = survival
        @rule_set = rule_set
        @horizon = horizon
        @at_risk = at_risk
      end

      # @param days [Integer] inactive days
      # @return [Hash{Symbol => Float}, nil] `estimate`, `low` and `high` of the chance of reactivation within the
      #   horizon, see {ClusteredSurvival#ends_within}; nil where the history is too short to tell
      def reactivation(days) = (@chances ||= {})[days] ||= @survival.ends_within(days, @horizon)

      # @return [Integer] the most inactive days of which the chance can be told
      def furthest = [(estimate.longest || 0) - @horizon, 0].max

      # The fewest inactive days from which on at most a share is reactivated within the horizon, so far as enough
      # people have been inactive for so long to tell: the upper end of the interval decides.
      #
      # @param share [Float]
      # @return [Integer, nil] nil where no count is known to keep it
      def suggested(share)
        told = (1..furthest).select { |days| @at_risk.fetch(days, 0) >= ENOUGH && reactivation(days) }
        kept = told.reverse.take_while { |days| (high = reactivation(days)[:high]) && high <= share }
        kept.last
      end

      # @param share [Float] of those called churned who may be reactivated
      # @param counts [Hash{String => Integer}] people per state now
      # @return [Array<String>] what is wrong with the day counts in use, in words
      def warnings(share, counts)
        [too_short(share), out_of_reach(counts)].compact
      end

      private

      # Where that is beyond chance.
      def too_short(share)
        chance = reactivation(@rule_set.churned_after)
        return if chance.nil? || chance[:low].nil? || chance[:low] <= share

        "Churn threshold too short: #{percent(chance[:estimate])} of people inactive for #{@rule_set.churned_after} " \
          "days are reactivated within #{@horizon} days (95% CI #{percent(chance[:low])} to " \
          "#{percent(chance[:high])}); your limit is #{percent(share)}."
      end

      def percent(share) = English.percent(share)

      # Somebody active again on the t-th day after the last had been inactive for t − 1 days.
      def out_of_reach(counts)
        longest = estimate.points.map { |point| point.censored.positive? ? point.t : point.t - 1 }.max || 0
        after = @rule_set.churned_after
        if longest < after
          return "No one can be churned yet: the longest inactivity is #{English.counted(longest, "day")}, and " \
                 "churned starts at #{after}."
        end
        return unless counts.fetch("churned").zero?

        "No one is churned: no one has been inactive for #{after} days on this date."
      end
    end
  end
end
