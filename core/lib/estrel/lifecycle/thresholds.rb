# frozen_string_literal: true

module Estrel
  class Lifecycle
    # What the gaps in activity say about the day counts of a policy: the chance of coming back after so many inactive
    # days, which counts keep it under a chosen share, and what is wrong with those in use.
    class Thresholds
      # Days within which somebody comes back or not, where the analyst names no others.
      HORIZON = 90
      # The share of those called churned who may come back, where the analyst names no other.
      SHARE = 0.1
      # The share of those called dormant who may come back.
      DORMANT_SHARE = 0.5

      # @return [KaplanMeier]
      attr_reader :estimate

      # @param estimate [KaplanMeier] of the gaps in activity
      # @param policy [Policy]
      # @param horizon [Integer] days
      def initialize(estimate, policy, horizon: HORIZON)
        @estimate = estimate
        @policy = policy
        @horizon = horizon
      end

      # @param days [Integer] inactive days
      # @return [Float, nil] the chance to come back within the horizon, nil where the history is too short to tell
      def comeback(days) = estimate.ends_within(days, @horizon)

      # The fewest inactive days after which at most a share comes back within the horizon.
      #
      # @param share [Float]
      # @return [Integer, nil] nil where the history is too short for any count to keep it
      def suggested(share)
        (1..[(estimate.longest || 0) - @horizon, 0].max).find { |days| (chance = comeback(days)) && chance <= share }
      end

      # @param share [Float] of those called churned who may come back
      # @param counts [Hash{String => Integer}] people per state now
      # @return [Array<String>] what is wrong with the day counts in use, in words
      def warnings(share, counts)
        [too_short(share), out_of_reach(counts)].compact
      end

      private

      def too_short(share)
        chance = comeback(@policy.churned_after)
        return if chance.nil? || chance <= share

        "#{(100 * chance).round}% of those called churned at #{@policy.churned_after} inactive days come back within " \
          "#{@horizon} days, more than the #{(100 * share).round}% you allow: the threshold is too short."
      end

      def out_of_reach(counts)
        if (estimate.longest || 0) < @policy.churned_after
          return "Nobody can be churned: the longest inactivity there is lasts #{estimate.longest || 0} days, and " \
                 "churned begins at #{@policy.churned_after}."
        end
        return unless counts.fetch("churned").zero?

        "Nobody is churned now: so long as #{@policy.churned_after} days nobody stays inactive."
      end
    end
  end
end
