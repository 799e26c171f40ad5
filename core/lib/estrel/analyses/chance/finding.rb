# frozen_string_literal: true

module Estrel
  module Analyses
    class Chance
      # What is said over the picture: how many are expected to, how much more often the likeliest did when it was
      # tried, and whether it tells people apart better than days inactive alone.
      class Finding
        # @param analysis [Chance]
        # @param learned [Hash{Symbol => Object}] of {Learned#to_h}
        # @param tenths [Tenths, nil]
        def initialize(analysis, learned, tenths)
          @analysis = analysis
          @learned = learned
          @tenths = tenths
        end

        # @return [String]
        def to_s = @tenths ? "#{expected} #{lift}; #{discrimination}." : @learned[:refused]

        private

        def expected
          who, what = @analysis.kind == "lapse" ? ["new or active", "lapse"] : ["dormant or churned", "be reactivated"]
          "#{English.number(@tenths.expected.round)} of #{English.number(@tenths.people)} #{who} people are expected " \
            "to #{what} within #{English.counted(@analysis.within, "day")}."
        end

        def lift
          top = @tenths.to_a.last
          low, high = [top.low, top.high].map { |share| English.percent(share) }
          "Backtest: #{English.percent(top.observed)} of the top decile did " \
            "(95% CI #{English.interval(low, high)}), lift #{English.ratio(top.lift)}"
        end

        def discrimination
          found = @learned[:discrimination]
          one, other = found.values_at(:model, :plain).map { |estimate| format("%.3f", estimate[:estimate]) }
          low, high = found[:difference].values_at(:low, :high)
          alone = "days inactive alone (AUC #{one} vs #{other})"
          return "better than #{alone}" if low.positive?

          "#{high.negative? ? "worse" : "no better"} than #{alone}: use days inactive instead"
        end
      end
    end
  end
end
