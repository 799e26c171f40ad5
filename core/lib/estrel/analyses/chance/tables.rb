# frozen_string_literal: true

module Estrel
  module Analyses
    class Chance
      # Tenth by tenth, and what a chance rests on.
      class Tables
        # @param analysis [Chance]
        # @param learned [Hash{Symbol => Object}] of {Learned#to_h}
        # @param tenths [Tenths]
        def initialize(analysis, learned, tenths)
          @analysis = analysis
          @learned = learned
          @tenths = tenths
        end

        # @return [Array<Table>]
        def all = [by_tenth, weights]

        private

        def by_tenth
          columns = [%w[chance Probability text], ["people", "People today", "people"],
                     ["expected", "Predicted people", "count"], ["predicted", "Predicted in backtest", "share"], ["observed", "Actual", "share"],
                     ["low", "95% CI from", "share"], ["high", "to", "share"], ["lift", "Lift", "ratio"],
                     ["tested", "People in backtest", "count"]]
          rows = @tenths.to_a.reverse.map do |tenth|
            figures = tenth.to_h.values_at(:people, :expected, :predicted, :observed, :low, :high, :lift, :tested)
            Table.row([range(tenth), *figures], people: @tenths.people_in(tenth))
          end
          Table.new("tenths", "By decile", columns, rows)
        end

        def range(tenth)
          from, to = [tenth.from, tenth.to].map { |share| share && English.precise(share) }
          return "below #{to}" unless from

          to ? "#{from} to #{to}" : "#{from} or more"
        end

        def weights
          rows = @learned[:weights].sort_by { |weight| -Math.log(weight[:odds]).abs }
          rows = rows.map { |weight| Table.row([*weight.values_at(:name, :odds, :low, :high), said(weight)]) }
          columns = [["name", "Predictor (doubled)", "text"], ["odds", "Odds ratio", "ratio"],
                     ["low", "95% CI from", "ratio"], ["high", "to", "ratio"], ["said", "Effect", "text"]]
          Table.new("weights", "Predictors", columns, rows)
        end

        def said(weight)
          return "no significant effect" if 1.between?(weight[:low], weight[:high])

          weight[:odds] > 1 ? "more likely" : "less likely"
        end
      end
    end
  end
end
