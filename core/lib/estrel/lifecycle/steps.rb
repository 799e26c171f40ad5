# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The dates at whose ends the base is looked at, one after the other: the ends of days, weeks or months, and before
    # them the day before the first. Between two neighbouring dates lies a period. Frozen.
    #
    # Weeks start on Monday. The last period ends early where the range does, and is incomplete then.
    class Steps
      UNITS = %w[day week month].freeze
      # The longest range that is looked at at once.
      MAX_DAYS = 366 * 40

      # Raised for a range that is upside down or absurdly long.
      class Invalid < Error; end

      # @param unit [String] of {UNITS}
      # @param from [Date] a day of the first period, which is looked at whole
      # @param to [Date] the last day
      # @return [Steps]
      # @raise [Invalid]
      def self.covering(unit, from, to)
        raise Invalid, "the range ends (#{English.date(to)}) before it starts (#{English.date(from)})" if to < from
        raise Invalid, "ask for at most #{MAX_DAYS} days at once" if (to - from) >= MAX_DAYS

        ends = []
        first = day = start_of(unit, from)
        while day <= to
          day = next_start(unit, day)
          ends << [day - 1, to].min
        end
        new([first - 1, *ends], unit: unit, whole: day - 1 == to)
      end

      # @param dates [Array<Date>] in ascending order
      # @return [Steps] with one period between each two dates
      def self.between(*dates)
        unless dates.each_cons(2).all? { |one, other| one < other }
          first, last = dates.values_at(0, -1).map { |date| English.date(date) }
          raise Invalid, "the later date (#{last}) must lie after the earlier one (#{first})"
        end

        new(dates, unit: "free", whole: true)
      end

      def self.start_of(unit, date)
        case unit
        when "day" then date
        when "week" then date - (date.cwday - 1)
        when "month" then Date.new(date.year, date.month, 1)
        else raise Invalid, "the step must be one of #{UNITS.join(", ")}"
        end
      end

      def self.next_start(unit, start)
        case unit
        when "day" then start + 1
        when "week" then start + 7
        else start >> 1
        end
      end
      private_class_method :next_start

      # As many steps before these, or the same a year before: whole weeks of it, so that the days of the week lie on
      # each other, and months by their names.
      #
      # @param how [String] "previous" or "year"
      # @return [Steps]
      def earlier(how)
        return Steps.new(back(how == "year" ? 12 : size - 1), unit: unit, whole: true) if unit == "month"

        days = unit == "week" ? 7 * (size - 1) : size - 1
        days = 364 if how == "year"
        Steps.new(dates.map { |date| date - days }, unit: unit, whole: @whole)
      end

      # @return [Array<Date>]
      attr_reader :dates
      # @return [String] of {UNITS}, or "free"
      attr_reader :unit

      def initialize(dates, unit:, whole:)
        @dates = dates.freeze
        @unit = unit
        @whole = whole
        @days = dates.map { |date| Calendar.number(date) }.freeze
        freeze
      end

      # @return [Array<Integer>] the same as day numbers
      attr_reader :days

      # @return [Integer]
      def size = dates.size

      # @return [Object] names the steps completely
      def key = [days.first, days.last, size, unit]

      # The periods between the dates.
      #
      # @param today [Date] days from today on have not ended
      # @return [Array<Hash{Symbol => Object}>] `from`, `to`, `complete`
      def periods(today)
        last = size - 2
        dates.each_cons(2).with_index.map do |(before, to), index|
          { from: before + 1, to: to, complete: to < today && (index < last || @whole) }
        end
      end

      # @param day [Polars::Expr] day numbers
      # @return [Polars::Expr] which is the first date on or after each; {#size} where none is
      def index(day)
        first = days.first
        last = days.last
        at = day.clip(first, last + 1) - first
        return at.cast(Polars::Int32) if last - first + 1 == size

        Polars.lit(table).gather(at.cast(Polars::UInt32))
      end

      private

      # The same months earlier. One that ends early is looked at as far as this one is.
      def back(months)
        *ends, last = dates.map { |date| ((date + 1) << months) - 1 }
        [*ends, @whole ? last : [dates.last << months, ends.last + 1].max]
      end

      # For every day from the first date to the one after the last.
      def table
        numbers = []
        days.each_with_index { |day, index| numbers << index while numbers.size <= day - days.first }
        Polars::Series.new("index", numbers << size, dtype: Polars::Int32)
      end
    end
  end
end
