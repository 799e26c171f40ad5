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
      # What gaps are told apart by, and what their groups are called.
      KINDS = {
        "season" => ["Gaps by season",
                     ["January to March", "April to June", "July to September", "October to December"]],
        "lapses" => ["Gaps by number of earlier dormant periods", %w[never once twice] + ["3 times or more"]]
      }.freeze
      private_constant :KINDS

      def self.states? = true

      def partial(part, found)
        return groups.counts(part) if counting?(found)

        lifecycle = Lifecycle.new(part.lifecycle.ledger, rules)
        durations = Lifecycle::Durations.new(lifecycle, last, every: basis.last)
        everybody = Lifecycle::Grouping.everybody(lifecycle.ledger)
        { everybody: [durations.of(everybody), durations.longest(everybody)], counts: states_now(lifecycle),
          kinds: KINDS.keys.map { |kind| durations.by(kind) },
          groups: groups.of(part, found.first).map do |grouping|
            [durations.of(grouping), durations.longest(grouping), grouping.sizes]
          end }
      end

      def answer(found)
        @found = found.last
        @rows = grouped(found.first)
        Answer.new(finding: finding, picture: picture,
                   tables: [curve_table, *(groups_table if @rows.any?), *(kind_tables if estimate.total.positive?)],
                   caveats: [*warnings.drop(1), several])
      end

      private

      def rests_on = [*super, rules.key, Lifecycle::Durations.every(workspace.ledger.base_size)]

      def several
        every = basis.last
        "CIs are clustered by person, because one person can have several gaps" \
          "#{" (estimated from 1 in #{every} people)" if every > 1}."
      end

      def rules = @rules ||= tried_rules

      def states_now(lifecycle) = lifecycle.counts(workspace.as_of, workspace.as_of).transform_values(&:first)

      def horizon = question["horizon"] || Lifecycle::Thresholds::HORIZON

      def share = question["share"] || Lifecycle::Thresholds::SHARE

      def dormant_share = question["dormant_share"] || Lifecycle::Thresholds::DORMANT_SHARE

      def last = Calendar.number(workspace.as_of)

      def survival = @survival ||= Lifecycle::Durations.estimates(@found[:everybody].first, 1).first

      def estimate = survival.whole

      def thresholds = @thresholds ||= of(survival, Lifecycle::Durations.at_risk(@found[:everybody].last, 1).first)

      def of(survival, at_risk = {})
        Lifecycle::Thresholds.new(survival, rules, horizon: horizon, at_risk: at_risk)
      end

      def grouped(counts)
        found = @found[:groups].flat_map do |durations, longest, people|
          people.zip(Lifecycle::Durations.estimates(durations, people.size),
                     Lifecycle::Durations.at_risk(longest, people.size))
        end
        groups.named(counts).zip(found).map do |named, (people, survival, at_risk)|
          own = of(survival, at_risk)
          { **named, people: people, gaps: survival.whole.total, curve: curve(survival),
                     at_churned: chance(own, rules.churned_after), suggested: own.suggested(share) }
        end
      end

      def chance(thresholds, days) = thresholds.reactivation(days)&.fetch(:estimate)

      def picture
        { horizon: horizon, share: share, dormant_share: dormant_share, active_within: rules.active_within,
          churned_after: rules.churned_after, gaps: estimate.total, longest: estimate.longest, curve: curve(survival),
          reactivation: reactivations, at_dormant: chance(thresholds, rules.active_within),
          at_churned: chance(thresholds, rules.churned_after),
          suggested: { active_within: thresholds.suggested(dormant_share), churned_after: thresholds.suggested(share) },
          warnings: warnings, groups: @rows }
      end

      def warnings = @warnings ||= thresholds.warnings(share, @found[:counts])

      def finding
        return "No activity yet." if estimate.total.zero?

        [warnings.first || returning, suggestion].compact.join(" ")
      end

      def returning
        days = rules.churned_after
        chance = thresholds.reactivation(days)
        if chance
          interval = chance.values_at(:low, :high).compact.map { |value| English.percent(value) }
          "#{English.percent(chance[:estimate])} of people inactive for #{days} days are reactivated within " \
            "#{horizon} days#{" (95% CI #{interval.join(" to ")})" if interval.any?}."
        else
          "Not enough history to estimate reactivation within #{horizon} days after #{days} inactive days."
        end
      end

      def suggestion
        days = thresholds.suggested(share)
        enough = Lifecycle::Thresholds::ENOUGH
        return "After #{days} inactive days, at most #{English.percent(share)} are reactivated." if days

        "No threshold in this data brings it to #{English.percent(share)} or less (at least #{enough} people needed)."
      end

      # The times told: all, or as many as tell the shape, evenly apart.
      def curve(survival)
        points = survival.points
        every = [(points.size / MOST_POINTS.to_f).ceil, 1].max
        kept = points.each_index.select { |index| (index % every).zero? || index == points.size - 1 }
        told = %i[t survival low high censored at_risk]
        points.values_at(*kept).map { |point| point.to_h.values_at(*told) }
      end

      def reactivations
        last = thresholds.furthest
        (0..last).step([last / MOST_POINTS, 1].max).map do |days|
          [days, *figures(thresholds, days)]
        end
      end

      def figures(thresholds, days) = (thresholds.reactivation(days) || {}).values_at(:estimate, :low, :high)

      def curve_table
        rows = curve(survival).map { |days, *told| Table.row([days, *told, *figures(thresholds, days)]) }
        Table.new("curve", "Share still inactive by days",
                  [["days", "Inactive for", "days"], ["still", "Still inactive", "share"],
                   ["low", "from", "share"], ["high", "to", "share"],
                   ["censored", "Open (censored)", "count"], ["at_risk", "At risk", "count"],
                   ["reactivation", "Reactivated within #{horizon} days", "share"],
                   ["reactivation_low", "from", "share"], ["reactivation_high", "to", "share"]], rows)
      end

      def groups_table
        rows = @rows.map do |group|
          figures = group.values_at(:people, :gaps, :at_churned, :suggested)
          Table.row([label(group), *figures], people: group[:people_in])
        end
        Table.new("groups", "By group",
                  [["group", "Group", "text"], ["people", "People", "people"],
                   ["gaps", "Inactivity gaps", "count"],
                   ["at_churned", "Reactivated after #{rules.churned_after} days", "share"],
                   ["suggested", "#{English.percent(share)} or less after (days)", "days"]], rows)
      end

      # After as many days as make somebody dormant, and churned.
      def kind_tables
        after = [rules.active_within, rules.churned_after]
        KINDS.zip(@found[:kinds]).map do |(kind, (title, names)), counts|
          rows = names.zip(Lifecycle::Durations.estimates(counts, names.size)).map do |name, survival|
            chances = after.flat_map { |days| figures(of(survival), days) }
            Table.row([name, survival.whole.total, *chances])
          end
          Table.new(kind, title, [["group", "Group", "text"], ["gaps", "Inactivity gaps", "count"],
                                  *after.flat_map { |days| chance_columns(days) }], rows)
        end
      end

      def chance_columns(days)
        [["after_#{days}", "Reactivated within #{horizon} days after #{days}", "share"],
         ["after_#{days}_low", "from", "share"], ["after_#{days}_high", "to", "share"]]
      end
    end
  end
end
