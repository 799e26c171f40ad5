# frozen_string_literal: true

module Estrel
  module Exports
    # When an export is carried out by itself: once on a date, every day, or on a day of every week or month, at a time
    # on the wall clock of the reporting time zone; or after each refresh of the ledger when other people would be
    # exported than last time, which has no times of its own. Frozen.
    #
    # A month that has no such day has it on its last one. Where daylight saving skips the time, the end of the gap is
    # meant; where it repeats it, the first of the two.
    class Schedule
      UNITS = %w[once day week month refresh].freeze
      TIME = /\A([01]\d|2[0-3]):([0-5]\d)\z/
      # The longest time from one to the next, days.
      LONGEST = 62
      private_constant :LONGEST

      # @return [String] of {UNITS}
      attr_reader :every
      # @return [String] "07:30"
      attr_reader :at
      # @return [Integer, String, nil] day of the week from Monday, 1 to 7, or of the month, 1 to 31; or a date
      attr_reader :on

      # @param json [Hash] `every`, `at` and, but for days, `on`
      # @raise [Invalid]
      def initialize(json)
        raise Invalid, "a schedule must be an object with \"every\" and \"at\"" unless json.is_a?(Hash)

        @every, @at, @on = json.values_at("every", "at", "on")
        check
        freeze
      end

      # @param instant [Integer] microseconds since the epoch
      # @param calendar [Calendar]
      # @return [Integer, nil] the first time after the instant
      def next_after(instant, calendar)
        dates(calendar.day_of(instant)).each do |date|
          found = calendar.at(date, *at.split(":").map(&:to_i))
          return found if found > instant
        end
        nil
      end

      # @return [Boolean] whether it goes by refreshes of the ledger
      def refresh? = every == "refresh"

      # How many times there were between two instants.
      #
      # @param from [Integer] included
      # @param to [Integer] not included
      # @param calendar [Calendar]
      # @return [Integer]
      def times(from, to, calendar)
        count = 0
        at = from - 1
        count += 1 while (at = next_after(at, calendar)) && at < to
        count
      end

      # @return [Hash] plain JSON
      def to_h = { "every" => every, "at" => at, "on" => on }.compact

      private

      # The dates to come on which there is a time.
      def dates(first)
        case every
        when "refresh" then []
        when "once" then [Date.iso8601(on)]
        else (first..(first + LONGEST)).lazy.select { |date| day?(date) }
        end
      end

      def day?(date)
        case every
        when "day" then true
        when "week" then date.cwday == on
        else date.day == [on, Date.new(date.year, date.month, -1).day].min
        end
      end

      def check
        raise Invalid, "choose when the export runs: #{UNITS.join(", ")}" unless UNITS.include?(every)
        return check_refresh if refresh?
        raise Invalid, "write the time of the run like 07:30" unless at.is_a?(String) && TIME.match?(at)

        every == "once" ? check_date : check_day
      end

      def check_refresh
        raise Invalid, "a run after every refresh has no time and no day" if at || on
      end

      def check_date
        Date.strptime(on, "%Y-%m-%d")
      rescue Date::Error, TypeError
        raise Invalid, "the date of a scheduled run must be one such as 2026-05-31"
      end

      def check_day
        range = { "day" => nil, "week" => 1..7, "month" => 1..31 }.fetch(every)
        return if range.nil? ? on.nil? : on.is_a?(Integer) && range.cover?(on)

        raise Invalid, range ? "on is a number from #{range.min} to #{range.max}" : "every day needs no on"
      end
    end
  end
end
