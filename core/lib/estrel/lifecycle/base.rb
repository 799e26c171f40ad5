# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The state of the base at the end of a range of days, how it got there, and what is worth saying about it.
    #
    # "Before" is the end of the previous period of the same length: for a range of N days up to D, the day D − N.
    class Base
      # @param lifecycle [Lifecycle]
      # @param from [Date]
      # @param to [Date] the as-of date
      # @param today [Date] days from today on have not ended
      def initialize(lifecycle, from:, to:, today:)
        @lifecycle = lifecycle
        @from = from
        @to = to
        @today = today
      end

      # @return [Hash] `days`, `counts` per state, `states` (now, share and change per state), `base`, `complete`,
      #   `takeaway`
      def to_h
        { from: @from, to: @to, before: before_day, base: base(now), complete: complete?, states: states,
          counts: @lifecycle.counts(@from, @to), takeaway: takeaway }
      end

      # One or two plain sentences; about the last day that has ended.
      #
      # @return [String]
      def takeaway
        return earlier_takeaway unless complete?
        return "Nobody had been seen by #{Audience::Wording.date(@to)}." if base(now).zero?

        [standing, movement].compact.join(" ")
      end

      private

      def complete? = @to < @today

      def before_day = @from - 1

      def earlier_takeaway
        ended = @today - 1
        left_out = "#{Audience::Wording.date(@to)} has not ended and is left out of this."
        "#{self.class.new(@lifecycle, from: [@from, ended].min, to: ended, today: @today).takeaway} #{left_out}"
      end

      def now = @now ||= at(@to)

      def before = @before ||= at(before_day)

      def at(day) = @lifecycle.counts(day, day).transform_values(&:first)

      def base(counts) = counts.values.sum

      def alive(counts) = counts["new"] + counts["active"]

      def states
        STATES.map do |state|
          { state: state, count: now[state], share: base(now).zero? ? 0.0 : now[state].fdiv(base(now)),
            before: before[state], change: now[state] - before[state] }
        end
      end

      def standing
        share = (100.0 * alive(now) / base(now)).round
        "On #{Audience::Wording.date(@to)}, #{number(alive(now))} of #{number(base(now))} people are new or active " \
          "(#{share} %)."
      end

      def movement
        return if base(before).zero?

        days = (@to - @from).to_i + 1
        moved = %w[dormant churned].map { |state| "#{state} #{change(now[state] - before[state])}" }
        "Over the last #{days} days that number #{change(alive(now) - alive(before))}; #{moved.join(" and ")}."
      end

      def change(difference)
        return "did not change" if difference.zero?

        "#{difference.positive? ? "rose" : "fell"} by #{number(difference.abs)}"
      end

      def number(value) = Audience::Wording.number(value)
    end
  end
end
