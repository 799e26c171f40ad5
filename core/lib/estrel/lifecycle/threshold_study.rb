# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The picture of all quiet periods, of everybody and of groups, with what it says about the day counts of a policy.
    class ThresholdStudy
      # A curve is told at so many times at most.
      MOST_POINTS = 400

      # @param lifecycle [Lifecycle]
      # @param as_of [Date]
      # @param horizon [Integer] days
      # @param share [Float] of those called churned who may come back
      # @param dormant_share [Float] of those called dormant who may come back
      def initialize(lifecycle, as_of, horizon: Thresholds::HORIZON, share: Thresholds::SHARE,
                     dormant_share: Thresholds::DORMANT_SHARE)
        @lifecycle = lifecycle
        @as_of = as_of
        @horizon = horizon
        @share = share
        @dormant_share = dormant_share
      end

      # @param groupings [Array<Grouping>] groups to lay beside everybody
      # @return [Hash] plain JSON
      def to_h(groupings = [])
        policy = @lifecycle.policy
        { as_of: @as_of, horizon: @horizon, share: @share, dormant_share: @dormant_share,
          active_within: policy.active_within, churned_after: policy.churned_after, periods: estimate.total,
          longest: estimate.longest,
          curve: curve(estimate), comeback: comebacks, at_dormant: study.comeback(policy.active_within),
          at_churned: study.comeback(policy.churned_after),
          suggested: { active_within: study.suggested(@dormant_share), churned_after: study.suggested(@share) },
          warnings: warnings, takeaway: takeaway, groups: groupings.flat_map { |grouping| groups(grouping) } }
      end

      # @return [String]
      def takeaway
        return "There has been no activity yet." if estimate.total.zero?

        [warnings.first || returning, suggestion].compact.join(" ")
      end

      private

      def quiet = @quiet ||= QuietPeriods.new(@lifecycle, @as_of)

      def estimate = @estimate ||= quiet.estimates(Grouping.everybody(@lifecycle.ledger)).first

      def study = @study ||= Thresholds.new(estimate, @lifecycle.policy, horizon: @horizon)

      def warnings
        @warnings ||= study.warnings(@share, @lifecycle.counts(@as_of, @as_of).transform_values(&:first))
      end

      def returning
        days = @lifecycle.policy.churned_after
        chance = study.comeback(days)
        if chance
          "After #{days} quiet days the chance to come back within #{@horizon} days is #{percent(chance)}."
        else
          "The history is too short to tell how many come back within #{@horizon} days after #{days} quiet ones."
        end
      end

      def suggestion
        days = study.suggested(@share)
        return unless days

        "From #{days} quiet days on, at most #{percent(@share)} come back."
      end

      def groups(grouping)
        quiet.estimates(grouping).each_with_index.map do |found, index|
          own = Thresholds.new(found, @lifecycle.policy, horizon: @horizon)
          { label: grouping.labels[index], people: grouping.sizes[index], periods: found.total, curve: curve(found),
            at_churned: own.comeback(@lifecycle.policy.churned_after), suggested: own.suggested(@share) }
        end
      end

      # The times told: all, or as many as tell the shape, evenly apart.
      def curve(found)
        points = found.points
        every = (points.size / MOST_POINTS.to_f).ceil
        kept = points.each_with_index.select do |_, index|
          (index % [every, 1].max).zero? || index == points.size - 1
        end.map(&:first)
        kept.map { |point| [point.t, point.survival, point.low, point.high, point.censored, point.at_risk] }
      end

      def comebacks
        last = [(estimate.longest || 0) - @horizon, 0].max
        (0..last).step([last / MOST_POINTS, 1].max).map { |days| [days, study.comeback(days)] }
      end

      def percent(share) = Audience::Wording.percent(share)
    end
  end
end
