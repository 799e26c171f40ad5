# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The state of the base at the end of a range, how it got there step by step, and what is worth saying about it.
    #
    # "Before" is the day before the range: the end of the previous period of the same length.
    class Base
      # What the same steps can be compared with.
      BEHIND = %w[previous year].freeze
      # Up to so many periods are told with their whole table of states before and after.
      MOST_TABLES = 400
      # @param lifecycle [Lifecycle]
      # @param from [Date] a day of the first period
      # @param to [Date] the as-of date
      # @param today [Date] days from today on have not ended
      # @param unit [String] of {Steps::UNITS}
      # @param behind [String, nil] of {BEHIND}: what is laid behind
      # @raise [Steps::Invalid]
      def initialize(lifecycle, from:, to:, today:, unit: "day", behind: nil)
        @lifecycle = lifecycle
        @to = to
        @today = today
        @steps = Steps.covering(unit, from, to)
        @behind = behind
      end

      # @return [Hash] plain JSON; `counts` and `returned` have one number per date of `dates`, `periods` one row per
      #   date
      def to_h
        { from: from, to: @to, before: before_day, step: @steps.unit, dates: @steps.dates.drop(1), base: base(last),
          complete: complete?, states: states, counts: STATES.to_h { |state| [state, series[state].drop(1)] },
          returned: { now: series["returned"][last], counts: series["returned"].drop(1) }, periods: periods,
          behind: behind, dormant: DormantPeople.new(@lifecycle, @to).to_h, takeaway: takeaway }
      end

      # A few plain sentences; about the last day that has ended and the periods that are complete.
      #
      # @return [String]
      def takeaway
        return earlier_takeaway unless complete?
        return "Nobody had been seen by #{Audience::Wording.date(@to)}." if base(last).zero?

        [standing, change_said, replacement].compact.join(" ")
      end

      private

      def from = @steps.dates.first + 1

      def complete? = @to < @today

      def before_day = @steps.dates.first

      def last = @steps.size - 1

      def everybody = @everybody ||= Grouping.everybody(@lifecycle.ledger)

      def series = @series ||= @lifecycle.series(@steps, everybody).first

      def movements = @movements ||= @lifecycle.movements(@steps, everybody).first

      def earlier_takeaway
        ended = @today - 1
        left_out = "#{Audience::Wording.date(@to)} has not ended and is left out of this."
        earlier = self.class.new(@lifecycle, from: [from, ended].min, to: ended, today: @today, unit: @steps.unit)
        "#{earlier.takeaway} #{left_out}"
      end

      def base(index) = STATES.sum { |state| series[state][index] }

      def alive(index) = series["new"][index] + series["active"][index]

      def states
        STATES.map do |state|
          now = series[state][last]
          { state: state, count: now, share: base(last).zero? ? 0.0 : now.fdiv(base(last)),
            before: series[state][0], change: now - series[state][0] }
        end
      end

      def periods
        told = @steps.periods(@today).zip(movements)
        told.map do |period, movement|
          { **period, **(told.size > MOST_TABLES ? movement.to_h.except(:table) : movement.to_h) }
        end
      end

      # The same steps so much earlier: new and active people at each date.
      def behind
        return unless @behind

        days = @behind == "year" ? year : (@to - before_day).to_i
        earlier = Steps.between(*@steps.dates.map { |date| date - days })
        counts = @lifecycle.series(earlier, everybody).first
        { to: @to - days, alive: counts["new"].zip(counts["active"]).map(&:sum).drop(1) }
      end

      # Whole weeks, so that the days of the week lie on each other; months by their names.
      def year = @steps.unit == "month" ? (@to - (@to << 12)).to_i : 364

      def standing
        share = (100.0 * alive(last) / base(last)).round
        "On #{Audience::Wording.date(@to)}, #{number(alive(last))} of #{number(base(last))} people are new or active " \
          "(#{share} %)."
      end

      def change_said
        return if base(0).zero?

        days = (@to - before_day).to_i
        moved = %w[dormant churned].map { |state| "#{state} #{change(series[state][last] - series[state][0])}" }
        "Over the last #{days} days that number #{change(alive(last) - alive(0))}; #{moved.join(" and ")}."
      end

      # How the replacement ratio stood over the complete weeks or months.
      def replacement
        return if @steps.unit == "day"

        told = @steps.periods(@today).zip(movements).filter_map { |period, movement| movement if period[:complete] }
        ratios = told.filter_map(&:replacement_ratio)
        return if ratios.empty?

        in_all = told.sum { |one| one.part("joined") + one.part("returned") }
        lapsed = told.sum do |one|
          one.part("lapsed")
        end
        below = ratios.count { |ratio| ratio < 1 }
        ratio = lapsed.zero? ? "–" : format("%.2f", in_all.fdiv(lapsed))
        "#{number(in_all)} joined or returned and #{number(lapsed)} lapsed from #{@steps.unit} to #{@steps.unit} " \
          "(replacement ratio #{ratio}); it was below 1 in #{below} of #{ratios.size} complete #{@steps.unit}s."
      end

      def change(difference)
        return "did not change" if difference.zero?

        "#{difference.positive? ? "rose" : "fell"} by #{number(difference.abs)}"
      end

      def number(value) = Audience::Wording.number(value)
    end
  end
end
