# frozen_string_literal: true

module Estrel
  module Analyses
    class Trends
      # Counts the events of a part of the ledger over some steps, series by series.
      class Counting
        # @param trends [Trends]
        # @param part [Audience::Evaluator]
        # @param steps [Lifecycle::Steps]
        # @param labels [Array<Array>, nil] see {EventGroups#of}
        def initialize(trends, part, steps, labels)
          @trends = trends
          @part = part
          @steps = steps
          @labels = labels
        end

        # @return [Hash{Symbol => Object}] `series`, see {EventCounts.of}, and `active`, people by code, where asked for
        def to_h
          needs = [:people, *@trends.measure.needs] - [:active]
          { series: @trends.selections.map { |selection| counted(rows(selection), needs.uniq) },
            active: (active if @trends.measure.needs.include?(:active)) }
        end

        # @param selection [Audience::Selection]
        # @return [Polars::DataFrame] its events in the range, with what is measured and what they are told apart by
        def rows(selection)
          selection.rows(@part, EventCounts.window(@steps), property: @trends.measure.property, split: groups.beside)
        end

        private

        def groups = @trends.groups

        def counted(rows, needs)
          each = groups.of(rows, @part, @labels).map do |told|
            EventCounts.of(told, @steps, needs, personal: groups.personal?)
          end
          each.reduce { |one, other| Sum.of(one, other) }
        end

        # Where events are told apart by something of their own, all groups are compared with everybody active.
        def active
          rows = EventCounts.active_days(@part, @steps)
          return counted(rows, %i[active])[:active] if groups.at_a_time?

          each = groups.personal? ? groups.of(rows, @part, @labels) : EventGroups.new([], nil, nil).of(rows, @part, nil)
          each.map { |told| EventCounts.of(told, @steps, %i[active], personal: true)[:active] }
              .reduce { |one, other| Sum.of(one, other) }
        end
      end
    end
  end
end
