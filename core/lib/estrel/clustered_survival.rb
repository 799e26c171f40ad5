# frozen_string_literal: true

module Estrel
  # The product-limit estimate of how long something lasts where one person may have it several times, as people stay
  # inactive again and again: then durations are not independent of each other, and {KaplanMeier}'s own band is too
  # narrow.
  #
  # The variance is the infinitesimal jackknife's, by people: the square of what each person's durations together add to
  # log S(t), added up over people (the robust variance of R's `survfit` with `cluster`; T. M. Therneau and
  # P. M. Grambsch, Modeling Survival Data (2000), section 2.2). One duration T adds, to −log S(t),
  #
  #   1 ÷ (at_risk(T) − ended(T)) if T ≤ t and it ended then, less B(min(t, T)),
  #   where B(t) is the sum over u ≤ t of ended(u) ÷ (at_risk(u) (at_risk(u) − ended(u))),
  #
  # so how often a person has a duration of one kind beside one of another is all that has to be known. Intervals are on
  # the scale of log(−log S). Frozen.
  class ClusteredSurvival
    # @return [KaplanMeier] of all durations, whose intervals know nothing of people
    attr_reader :whole

    # @param ended [Hash{Integer => Integer}] see {KaplanMeier}
    # @param censored [Hash{Integer => Integer}] see {KaplanMeier}
    # @param pairs [Hash{Array(Integer, Integer) => Integer}] of two kinds of durations in ascending order, the products
    #   of how often each person has the one and the other, added up; a kind is twice the time, and one more if it ended
    def initialize(ended, censored, pairs)
      @whole = KaplanMeier.new(ended, censored)
      @adds = adds
      @partners = partners(pairs)
      @products = {}
      freeze
    end

    # @return [Array<KaplanMeier::Point>] as of {whole}, with the errors and intervals of people's
    def points
      whole.points.map do |point|
        next point if point.survival >= 1.0 || point.error.nil?

        error = error_of(variance(point.t))
        low, high = around(-Math.log(point.survival), error)
        point.dup.tap do |told|
          told.error = error && (point.survival * error)
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
      return { estimate: estimate, low: 0.0, high: most(t) } if estimate.zero?
      return { estimate: estimate, low: nil, high: nil } if estimate >= 1.0

      error = error_of(variance(t + horizon) + variance(t) - (2 * products(horizon)[t]))
      low, high = around(-Math.log(1 - estimate), error)
      { estimate: estimate, low: high && (1 - high), high: low && (1 - low) }
    end

    private

    # So long as nothing has ended, the most the chance may be for so many to show nothing of it.
    def most(time) = 1 - (0.05**(1.0 / whole.known_after(time)))

    # Of one person alone nothing is known of how people differ.
    def error_of(variance) = variance.positive? ? Math.sqrt(variance) : nil

    # The interval of exp(−hazard).
    def around(hazard, error)
      return [nil, nil] unless error

      spread = Math.exp(Statistics::Normal::Z * error / hazard)
      survival = Math.exp(-hazard)
      [survival**spread, survival**(1 / spread)]
    end

    # Of log S(t).
    def variance(time) = products(0)[time]

    # B at each time, see above, while S is above 0.
    def adds
      sum = 0.0
      told = whole.points.select { |point| point.survival.positive? }.to_h do |point|
        [point.t, sum += point.ended.fdiv(point.at_risk * (point.at_risk - point.ended))]
      end
      last = 0.0
      (0..(whole.longest || 0)).map { |time| last = told.fetch(time, last) }
    end

    # By the kind of one duration, what the others are and how often; in an order of their own, so that figures add up
    # to the same in whatever order pairs were found.
    def partners(pairs)
      found = Hash.new { |kinds, kind| kinds[kind] = [] }
      pairs.sort_by { |(one, other), _| (one << 32) + other }.each do |(one, other), count|
        found[one] << [other, count]
        found[other] << [one, count] unless one == other
      end
      found.default = nil
      found.freeze
    end

    # What a duration of a kind adds to −log S from its time on; nil at the time when all that are left end.
    def added(kind)
      time = kind / 2
      point = whole.at(time)
      return if point.survival.zero?
      return -@adds[time] if kind.even?

      1.fdiv(point.at_risk - point.ended) - @adds[time]
    end

    # What people add to −log S(t) times what they add to −log S(t + lag), added up, at each t.
    def products(lag) = @products[lag] ||= Products.new(@adds, @partners, method(:added)).all(lag)

    # Goes from one time to the next. A duration adds its own figure once its time has come, and −B(t) before; which of
    # the two each of a pair does changes only at its time.
    class Products
      # What is left of a sum by rounding alone is less than this share of its terms.
      ROUNDING = 1e-12
      # The duration of a pair that is looked at at t, and the one at t + lag.
      HERE = 1
      THERE = 2
      BOTH = 3
      private_constant :ROUNDING, :HERE, :THERE, :BOTH

      # @param adds [Array<Float>] B at each time
      # @param partners [Hash{Integer => Array<Array(Integer, Integer)>}] by kind, the other kind and how often
      # @param added [#call] what a kind adds from its time on, or nil
      def initialize(adds, partners, added)
        @adds = adds
        @partners = partners
        @kinds = partners.keys.group_by { |kind| kind / 2 }
        @added = partners.keys.to_h { |kind| [kind, added.call(kind)] }
      end

      # @param lag [Integer]
      # @return [Array<Float>] at each time
      def all(lag)
        @times = { HERE => -1, THERE => -1 }
        # Over pairs of which neither time has come, or that of the one, the other or both: their own figures.
        @sums = [@partners.sum { |_, others| others.sum(&:last) }.to_f, 0.0, 0.0, 0.0]
        lag.times { go_on(THERE) }
        (0...[@adds.size - lag, 0].max).map do
          go_on(THERE)
          go_on(HERE)
          product
        end
      end

      private

      def product
        here, there = @times.values_at(HERE, THERE).map { |time| @adds[time] }
        terms = [@sums[BOTH], -there * @sums[HERE], -here * @sums[THERE], here * there * @sums.first]
        sum = terms.sum
        sum.abs > ROUNDING * terms.sum(&:abs) ? sum : 0.0
      end

      def go_on(side)
        time = (@times[side] += 1)
        @kinds.fetch(time, []).each do |kind|
          own = @added[kind] or next
          @partners[kind].each { |other, count| come(side, own, other, count) }
        end
      end

      # The time of one of a pair.
      def come(side, own, other, count)
        figure = @added[other]
        if figure && other / 2 <= @times[BOTH - side]
          @sums[BOTH - side] -= count * figure
          @sums[BOTH] += count * own * figure
        else
          @sums[0] -= count
          @sums[side] += count * own
        end
      end
    end
    private_constant :Products
  end
end
