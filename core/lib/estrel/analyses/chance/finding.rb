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
          who, what = @analysis.kind == "lapse" ? ["new or active", "lapse"] : ["dormant or churned", "come back"]
          "Of #{English.number(@tenths.people)} #{who} people #{English.number(@tenths.expected.round)} are expected " \
            "to #{what} within #{English.counted(@analysis.within, "day")}."
        end

        def lift
          top = @tenths.to_a.last
          low, high = [top.low, top.high].map { |share| English.percent(share) }
          "When it was tried, #{English.percent(top.observed)} of the likeliest tenth did " \
            "(#{English.interval(low, high)}), #{English.ratio(top.lift)} times the share of all"
        end

        def discrimination
          found = @learned[:discrimination]
          one, other = found.values_at(:model, :plain).map { |estimate| format("%.3f", estimate[:estimate]) }
          low, high = found[:difference].values_at(:low, :high)
          said = "days inactive alone: c-statistic #{one}, #{other}"
          return "better than #{said}" if low.positive?

          "#{high.negative? ? "worse" : "no better"} than #{said}, so go by those"
        end
      end
    end
  end
end
