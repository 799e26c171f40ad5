# frozen_string_literal: true

module Estrel
  # The product-limit estimate of how long something lasts, from durations some of which were not over yet when they
  # were last looked at (right-censored). Frozen.
  #
  # E. L. Kaplan and P. Meier, Journal of the American Statistical Association 53 (1958), 457–481: S(t) is the product
  # over the times u ≤ t at which any ended of 1 − ended(u) ÷ at_risk(u). One censored at u is at risk at u. The
  # variance is Greenwood's (Reports on Public Health and Medical Subjects 33 (1926)); the 95% band is pointwise on the
  # scale of log(−log S) (J. D. Kalbfleisch and R. L. Prentice, The Statistical Analysis of Failure Time Data (1980)),
  # so it stays between 0 and 1. It is that of durations which are independent of each other, see {ClusteredSurvival}.
  class KaplanMeier
    # One time: `t`, `at_risk` (lasted at least t), `ended` and `censored` at t, `survival` (lasting longer), its
    # standard error `error`, and the ends of its 95% interval `low` and `high` (nil where the variance is unknown).
    Point = Struct.new(:t, :at_risk, :ended, :censored, :survival, :error, :low, :high, keyword_init: true)

    # @return [Array<Point>] at every time anything ended or was censored, ascending
    attr_reader :points

    # @param ended [Hash{Integer => Integer}] how many ended at each time
    # @param censored [Hash{Integer => Integer}] how many were looked at last at each time and had not ended
    def initialize(ended, censored)
      @points = estimate(ended, censored).freeze
      @times = @points.map(&:t).freeze
      freeze
    end

    # @return [Integer] how many durations there are
    def total = points.empty? ? 0 : points.first.at_risk

    # @return [Integer, nil] the longest time anything was seen to last; beyond it nothing is known
    def longest = @times.last

    # @param t [Integer]
    # @return [Float] S(t): the share that lasts longer than t
    def survival(t) = at(t)&.survival || 1.0

    # @param t [Integer]
    # @return [Point, nil] the last one at or before t
    def at(t)
      index = @times.bsearch_index { |time| time > t } || @times.size
      index.zero? ? nil : points[index - 1]
    end

    # @param t [Integer]
    # @return [Integer] how many lasted longer than t, as far as they were seen
    def known_after(t)
      index = @times.bsearch_index { |time| time > t }
      index ? points[index].at_risk : 0
    end

    # The chance that what has lasted t ends within a further time: 1 − S(t + horizon) ÷ S(t).
    #
    # @param t [Integer]
    # @param horizon [Integer]
    # @return [Float, nil] nil where nothing is known to have lasted longer than t, or nothing was watched that long
    def ends_within(t, horizon)
      lasting = survival(t)
      return if lasting.zero? || known_after(t).zero? || longest < t + horizon

      1.0 - (survival(t + horizon) / lasting)
    end

    private

    def estimate(ended, censored)
      at_risk = ended.values.sum + censored.values.sum
      survival = 1.0
      sum = 0.0
      (ended.keys | censored.keys).sort.map do |t|
        over = ended.fetch(t, 0)
        lost = censored.fetch(t, 0)
        survival *= 1 - over.fdiv(at_risk)
        sum += over == at_risk ? Float::INFINITY : over.fdiv(at_risk * (at_risk - over))
        point = Point.new(t: t, at_risk: at_risk, ended: over, censored: lost, survival: survival,
                          **band(survival, sum, at_risk)).freeze
        at_risk -= over + lost
        point
      end
    end

    # So long as nothing has ended, the least that S may be for so many to show nothing of it.
    def band(survival, sum, at_risk)
      return { error: 0.0, low: 0.05**(1.0 / at_risk), high: 1.0 } if survival >= 1.0
      return { error: nil, low: nil, high: nil } if sum.infinite? || survival <= 0

      error = Math.sqrt(sum)
      spread = Math.exp(Statistics::Normal::Z * error / Math.log(survival).abs)
      { error: survival * error, low: survival**spread, high: survival**(1 / spread) }
    end
  end
end
