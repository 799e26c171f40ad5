# frozen_string_literal: true

module Estrel
  # The product-limit estimate of how long something lasts where one person may have it several times, as people stay
  # inactive again and again: then durations are not independent of each other, and {KaplanMeier}'s own band is too
  # narrow. Here people are told apart by blocks, and each interval comes of leaving out one block of people after the
  # other (delete-a-group jackknife: P. S. Kott, Journal of Official Statistics 17 (2001), 521–526), on the scale of
  # log(−log S), with Student's quantile for one less than the blocks. Frozen.
  class ClusteredSurvival
    # @return [KaplanMeier] of all durations, with the intervals of people's
    attr_reader :whole

    # @param blocks [Array<Array(Hash, Hash)>] of each block of people how many durations ended at each time, and how
    #   many had not ended when they were last looked at, see {KaplanMeier}
    def initialize(blocks)
      blocks = blocks.reject { |counts| counts.all?(&:empty?) }
      @whole = KaplanMeier.new(*blocks.reduce([{}, {}]) { |sum, one| Analyses::Sum.of(sum, one) })
      @places = whole.points.each_with_index.to_h { |point, place| [point.t, place] }
      @hazards = blocks.map { |ended, censored| hazards(ended, censored) }
      @hazard = hazards({}, {})
      freeze
    end

    # @return [Array<KaplanMeier::Point>] as of {whole}, with the intervals of people's
    def points
      whole.points.each_with_index.map do |point, place|
        next point if point.survival >= 1.0

        low, high = around(@hazard[place], @hazards.map { |hazards| hazards[place] })
        point.dup.tap do |told|
          told.low = low
          told.high = high
          told.freeze
        end
      end
    end

    # The chance that what has lasted t ends within a further time, see {KaplanMeier#ends_within}.
    #
    # @param t [Integer]
    # @param horizon [Integer]
    # @return [Hash{Symbol => Float}, nil] `estimate`, `low` and `high` (nil where the variance is unknown); nil where
    #   {KaplanMeier#ends_within} is
    def ends_within(t, horizon)
      estimate = whole.ends_within(t, horizon) or return
      from, to = [t, t + horizon].map { |time| whole.at(time) }.map { |point| point && @places[point.t] }
      hazards = [@hazard, *@hazards].map { |one| (to ? one[to] : 0.0) - (from ? one[from] : 0.0) }
      return { estimate: estimate, low: 0.0, high: most(t) } if hazards.first.zero?

      low, high = around(hazards.first, hazards.drop(1))
      { estimate: estimate, low: high && (1 - high), high: low && (1 - low) }
    end

    private

    # So long as nothing has ended, the most the chance may be for so many to show nothing of it.
    def most(time) = 1 - (0.05**(1.0 / whole.known_after(time)))

    # The cumulative hazard −log S at each time, without a block.
    def hazards(ended, censored)
      at_risk = whole.total - ended.values.sum - censored.values.sum
      sum = 0.0
      whole.points.map do |point|
        over = point.ended - ended.fetch(point.t, 0)
        sum -= Math.log(1 - over.fdiv(at_risk)) if over.positive?
        at_risk -= over + point.censored - censored.fetch(point.t, 0)
        sum
      end
    end

    # The interval of exp(−hazard).
    def around(hazard, without)
      return [nil, nil] if without.size < 2 || [hazard, *without].any?(&:infinite?)

      spread = Math.exp(Statistics::Means.jackknife_half(hazard, without) / hazard)
      survival = Math.exp(-hazard)
      [survival**spread, survival**(1 / spread)]
    end
  end
end
