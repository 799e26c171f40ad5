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

      # @return [KaplanMeier]
      attr_reader :estimate

      # @param estimate [KaplanMeier] of the gaps in activity
      # @param rule_set [RuleSet]
      # @param horizon [Integer] days
      def initialize(estimate, rule_set, horizon: HORIZON)
        @estimate = estimate
        @rule_set = rule_set
        @horizon = horizon
      end

      # @param days [Integer] inactive days
      # @return [Float, nil] the chance of reactivation within the horizon, nil where the history is too short to tell
      def reactivation(days) = estimate.ends_within(days, @horizon)

      # The fewest inactive days after which at most a share is reactivated within the horizon.
      #
      # @param share [Float]
      # @return [Integer, nil] nil where the history is too short for any count to keep it
      def suggested(share)
        (1..[(estimate.longest || 0) - @horizon, 0].max).find do |days|
          (chance = reactivation(days)) && chance <= share
        end
      end

      # @param share [Float] of those called churned who may be reactivated
      # @param counts [Hash{String => Integer}] people per state now
      # @return [Array<String>] what is wrong with the day counts in use, in words
      def warnings(share, counts)
        [too_short(share), out_of_reach(counts)].compact
      end

      private

      def too_short(share)
        chance = reactivation(@rule_set.churned_after)
        return if chance.nil? || chance <= share

        "#{(100 * chance).round}% of those called churned at #{@rule_set.churned_after} inactive days " \
          "are reactivated within #{@horizon} days, more than the #{(100 * share).round}% you allow: the threshold " \
          "is too short."
      end

      def out_of_reach(counts)
        if (estimate.longest || 0) < @rule_set.churned_after
          return "Nobody can be churned: the longest inactivity there is lasts #{estimate.longest || 0} days, and " \
                 "churned begins at #{@rule_set.churned_after}."
        end
        return unless counts.fetch("churned").zero?

        "Nobody is churned now: so long as #{@rule_set.churned_after} days nobody stays inactive."
      end
    end
  end
end
