# frozen_string_literal: true

module Estrel
  module Handover
    # When a plan is carried out by itself: every day, or on a day of every week or month, at a time on the wall clock
    # of the reporting time zone. Frozen.
    #
    # A month that has no such day has it on its last one. Where daylight saving skips the time, the end of the gap is
    # meant; where it repeats it, the first of the two.
    class Schedule
      UNITS = %w[day week month].freeze
      TIME = /\A([01]\d|2[0-3]):([0-5]\d)\z/
      # The longest time from one to the next, days.
      LONGEST = 62
      private_constant :LONGEST

      # @return [String] of {UNITS}
      attr_reader :every
      # @return [String] "07:30"
      attr_reader :at
      # @return [Integer, nil] day of the week from Monday, 1 to 7, or of the month, 1 to 31
      attr_reader :on

      # @param json [Hash] `every`, `at` and, but for days, `on`
      # @raise [Invalid]
      def initialize(json)
        raise Invalid, "a schedule is an object with every and at" unless json.is_a?(Hash)

        @every, @at, @on = json.values_at("every", "at", "on")
        check
        freeze
      end

      # @param instant [Integer] microseconds since the epoch
      # @param calendar [Calendar]
      # @return [Integer] the first time after the instant
      def next_after(instant, calendar)
        first = calendar.day_of(instant)
        (first..(first + LONGEST)).each do |date|
          next unless day?(date)

          found = calendar.at(date, *at.split(":").map(&:to_i))
          return found if found > instant
        end
      end

      # How many times there were between two instants.
      #
      # @param from [Integer] included
      # @param to [Integer] not included
      # @param calendar [Calendar]
      # @return [Integer]
      def times(from, to, calendar)
        count = 0
        at = from - 1
        count += 1 while (at = next_after(at, calendar)) < to
        count
      end

      # @return [Hash] plain JSON
      def to_h = { "every" => every, "at" => at, "on" => on }.compact

      private

      def day?(date)
        case every
        when "day" then true
        when "week" then date.cwday == on
        else date.day == [on, Date.new(date.year, date.month, -1).day].min
        end
      end

      def check
        raise Invalid, "every is one of #{UNITS.join(", ")}" unless UNITS.include?(every)
        raise Invalid, "at is a time such as 07:30" unless at.is_a?(String) && TIME.match?(at)

        range = { "day" => nil, "week" => 1..7, "month" => 1..31 }.fetch(every)
        return if range.nil? ? on.nil? : on.is_a?(Integer) && range.cover?(on)

        raise Invalid, range ? "on is a number from #{range.min} to #{range.max}" : "every day needs no on"
      end
    end
  end
end
