# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What came of an export, in tables.
      class Tables
        # @param result [Result]
        # @param words [Words]
        # @param plan [Boolean] whether it is about all runs
        # @param within [Array<Within>]
        def initialize(result, words, plan:, within:)
          @result = result
          @words = words
          @plan = plan
          @within = within
        end

        # @return [Array<Table>]
        def all
          [groups, *(outcomes if @result.outcomes.size > 1), *(runs if @plan), *within, days]
        end

        private

        def outcome = @result.outcome

        def kind = outcome.share? ? "share" : "mean"

        def others = @words.columns.first

        def held = @words.columns.last

        def groups
          uncut = @result.comparison.uncut if @result.comparison.cut
          rows = @words.columns.zip(@result.comparison.groups).map.with_index do |(name, group), side|
            Table.row([name, group.people, @result.comparison.did[side], group.mean, *(uncut[side] if uncut),
                       @result.complete?])
          end
          Table.new("groups", "#{others} and #{held.downcase}, #{period}",
                    [["group", "Group", "text"], ["people", "People", "count"],
                     ["hits", "With the outcome", "count"],
                     outcome.share? ? ["share", "Share", "share"] : ["mean", "Mean", "mean"],
                     *([["uncut", "Mean (uncapped)", "mean"]] if uncut), ["complete", "Complete", "flag"]], rows)
        end

        def period
          from, to = [@result.from, @result.to].map { |day| English.date(Calendar.date(day)) }
          "#{from} to #{to}"
        end

        # Of outcomes some may be shares and some means, so a table of each.
        def outcomes
          rows = @result.each_outcome.map do |one, told, clear|
            said = told.groups.map { |group| said(group.mean, one.share?) }
            apart = told.difference&.values_at(:estimate, :low, :high)&.map { |value| difference(value, one.share?) }
            Table.row([one.to_s, *said, apart ? apart.first : "–", apart ? apart.drop(1).join(" to ") : "–",
                       told.p_value, clear])
          end
          Table.new("outcomes", "By each outcome",
                    [["outcome", "Outcome", "text"], ["exported", others, "text"], ["holdout", held, "text"],
                     ["difference", "Difference", "text"], ["interval", "95% CI", "text"],
                     ["p", "p", "ratio"], ["clear", "Significant (corrected)", "flag"]], rows)
        end

        def said(value, share)
          return "–" if value.nil?

          share ? English.precise(value) : English.rate(value)
        end

        def difference(value, share)
          share ? "#{English.points(value)} pp" : "#{"+" if value.positive?}#{English.rate(value)}"
        end

        def runs
          rows = @result.each_run.map do |_, day, told|
            Table.row([Calendar.date(day).iso8601, *figures(told), @result.over_on?(day)])
          end
          Table.new("runs", "By run, all people",
                    [["day", "Exported on", "date"], *compared, ["complete", "Complete", "flag"]], rows)
        end

        def within
          @within.map do |one|
            rows = one.groups.map { |name, told| Table.row([name, *figures(told)]) }
            Table.new(one.key, one.label, [["group", "Group", "text"], *compared], rows)
          end
        end

        def figures(told)
          [*told.groups.map(&:people), *told.groups.map(&:mean),
           *(told.difference || {}).values_at(:estimate, :low, :high)]
        end

        def compared
          apart = outcome.share? ? "points" : "mean"
          [["exported", "People #{others.downcase}", "count"], ["held", "in #{@words.held}", "count"],
           ["exported_mean", outcome.share? ? "Share" : "Mean", kind],
           ["held_mean", "#{outcome.share? ? "Share" : "Mean"} of #{@words.held}", kind],
           ["difference", "Difference", apart], ["low", "from", apart], ["high", "to", apart]]
        end

        def days
          rows = @result.curve.map do |row|
            Table.row([row[:day], *row[:exported].values_at(:mean, :low, :high),
                       *row[:held].values_at(:mean, :low, :high)])
          end
          Table.new("days", "Cumulative by day since #{@words.parted}",
                    [["day", "Day", "count"], ["exported", others, kind], ["exported_low", "from", kind],
                     ["exported_high", "to", kind], ["held", held, kind], ["held_low", "from", kind],
                     ["held_high", "to", kind]], rows)
        end
      end
    end
  end
end
