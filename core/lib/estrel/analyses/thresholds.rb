# frozen_string_literal: true

module Estrel
  module Analyses
    # How long people stay inactive, of everybody and of groups, and what that says about the day counts of the
    # lifecycle rules. The gaps between activity days add up over the parts; the estimate is made of all of them
    # together.
    class Thresholds < Analysis
      include Grouped

      # A curve is told at so many times at most.
      MOST_POINTS = 400

      def self.states? = true

      def partial(part, found)
        return groups.counts(part) if counting?(found)

        lifecycle = part.lifecycle
        { everybody: lifecycle.gaps(Lifecycle::Grouping.everybody(lifecycle.ledger)),
          counts: states_now(Lifecycle.new(lifecycle.ledger, rules)),
          groups: groups.of(part, found.first).map { |grouping| [lifecycle.gaps(grouping), grouping.sizes] } }
      end

      def answer(found)
        @found = found.last
        @rows = grouped(found.first)
        Answer.new(finding: finding, picture: picture, tables: [curve_table, *(groups_table if @rows.any?)],
                   caveats: [*warnings.drop(1), INDEPENDENT])
      end

      private

      INDEPENDENT = "Several gaps of one person count as independent, so the band is narrower than it would be for " \
                    "people."
      private_constant :INDEPENDENT

      def rests_on = [*super, rules.key]

      def rules = @rules ||= tried_rules

      def states_now(lifecycle) = lifecycle.counts(workspace.as_of, workspace.as_of).transform_values(&:first)

      def horizon = question["horizon"] || Lifecycle::Thresholds::HORIZON

      def share = question["share"] || Lifecycle::Thresholds::SHARE

      def dormant_share = question["dormant_share"] || Lifecycle::Thresholds::DORMANT_SHARE

      def last = Calendar.number(workspace.as_of)

      def estimate = @estimate ||= @found[:everybody].estimates(last, 1).first

      def thresholds = @thresholds ||= of(estimate)

      def of(estimate) = Lifecycle::Thresholds.new(estimate, rules, horizon: horizon)

      def grouped(counts)
        found = @found[:groups].flat_map { |gaps, people| people.zip(gaps.estimates(last, people.size)) }
        groups.named(counts).zip(found).map do |named, (people, estimate)|
          own = of(estimate)
          { **named, people: people, gaps: estimate.total, curve: curve(estimate),
                     at_churned: own.reactivation(rules.churned_after), suggested: own.suggested(share) }
        end
      end

      def picture
        { horizon: horizon, share: share, dormant_share: dormant_share, active_within: rules.active_within,
          churned_after: rules.churned_after, gaps: estimate.total, longest: estimate.longest, curve: curve(estimate),
          reactivation: reactivations, at_dormant: thresholds.reactivation(rules.active_within),
          at_churned: thresholds.reactivation(rules.churned_after),
          suggested: { active_within: thresholds.suggested(dormant_share), churned_after: thresholds.suggested(share) },
          warnings: warnings, groups: @rows }
      end

      def warnings = @warnings ||= thresholds.warnings(share, @found[:counts])

      def finding
        return "There has been no activity yet." if estimate.total.zero?

        [warnings.first || returning, suggestion].compact.join(" ")
      end

      def returning
        days = rules.churned_after
        chance = thresholds.reactivation(days)
        if chance
          "After #{days} inactive days the chance of reactivation within #{horizon} days is #{English.percent(chance)}."
        else
          "The history is too short to tell how many are reactivated within #{horizon} days after #{days} " \
            "inactive ones."
        end
      end

      def suggestion
        days = thresholds.suggested(share)
        days && "From #{days} inactive days on, at most #{English.percent(share)} are reactivated."
      end

      # The times told: all, or as many as tell the shape, evenly apart.
      def curve(found)
        points = found.points
        every = [(points.size / MOST_POINTS.to_f).ceil, 1].max
        kept = points.each_index.select { |index| (index % every).zero? || index == points.size - 1 }
        told = %i[t survival low high censored at_risk]
        points.values_at(*kept).map { |point| point.to_h.values_at(*told) }
      end

      def reactivations
        last = [(estimate.longest || 0) - horizon, 0].max
        (0..last).step([last / MOST_POINTS, 1].max).map { |days| [days, thresholds.reactivation(days)] }
      end

      def curve_table
        rows = curve(estimate).map { |days, *figures| Table.row([days, *figures, thresholds.reactivation(days)]) }
        Table.new("curve", "Still inactive after so many days",
                  [["days", "Inactive for", "days"], ["still", "Still inactive", "share"],
                   ["low", "from", "share"], ["high", "to", "share"],
                   ["censored", "Not over yet", "count"], ["at_risk", "At risk", "count"],
                   ["reactivation", "Reactivated within #{horizon} days", "share"]], rows)
      end

      def groups_table
        rows = @rows.map do |group|
          figures = group.values_at(:people, :gaps, :at_churned, :suggested)
          Table.row([label(group), *figures], people: group[:people_in])
        end
        Table.new("groups", "Group by group",
                  [["group", "Group", "text"], ["people", "People", "people"],
                   ["gaps", "Gaps in activity", "count"],
                   ["at_churned", "Reactivated after #{rules.churned_after} days", "share"],
                   ["suggested", "#{English.percent(share)} from", "days"]], rows)
      end
    end
  end
end
