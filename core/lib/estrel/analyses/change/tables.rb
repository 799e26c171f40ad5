# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # All that was looked at, and the change taken apart by each split.
      class Tables
        COUNTS = [["n_0", "People before", "count"], ["y_0", "Did it before", "count"],
                  ["n_1", "People after", "count"], ["y_1", "Did it after", "count"]].freeze
        private_constant :COUNTS

        # @param analysis [Change]
        # @param reasons [Reasons]
        # @param told [Array<Decomposition>]
        def initialize(analysis, reasons, told)
          @analysis = analysis
          @reasons = reasons
          @told = told
        end

        # @return [Array<Table>]
        def all = [of_reasons, of_splits, of_groups]

        private

        def of_reasons
          columns = [%w[reason Reason text], ["amount", "Contribution", "change"], ["low", "95% CI from", "change"],
                     ["high", "to", "change"], *COUNTS, ["clear", "Significant", "flag"]]
          rows = @reasons.map do |reason|
            figures, cells = reason.group ? counts(reason.decomposition, reason.group) : nothing
            Table.row([reason.said, reason.amount, *reason.interval, *figures, @reasons.clear?(reason)], cells: cells)
          end
          Table.new("reasons", "Possible drivers", columns, rows)
        end

        def of_splits
          columns = [["split", "Split by", "text"], ["size", "Group size", "change"],
                     ["mix", "Mix", "change"], ["behaviour", "Behaviour", "change"]]
          rows = @told.map { |one| Table.row([one.split.name, one.size, one.mix, one.behaviour]) }
          Table.new("splits", "Decomposition by split", columns, rows)
        end

        def of_groups
          rows = @told.flat_map do |one|
            one.groups.map do |group|
              figures, cells = counts(one, group)
              Table.row([one.split.name, one.split.said(group.label), *figures], cells: cells)
            end
          end
          columns = [["split", "Split by", "text"], %w[group Group text], *COUNTS]
          Table.new("groups", "By group", columns, rows)
        end

        def nothing = [Array.new(COUNTS.size), {}]

        # How many there are and do it, and who these are.
        def counts(one, group)
          cells = [0, 1].to_h { |period| ["y_#{period}", one.people_in(group, period)] }
          [group.n.zip(group.y).flatten, cells.compact]
        end
      end
    end
  end
end
