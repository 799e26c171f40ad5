# frozen_string_literal: true

module Estrel
  module Audience
    # The stretch of time a condition looks at: the last N days or hours, between two dates, from or up to one, within N
    # days of being first seen, not before some of these, or ever; on some weekdays and between some hours of the day
    # where wanted. Frozen.
    #
    # A window never reaches past the as-of date.
    class Window
      BASES = %w[last_days last_hours first_days after_first_days from to].freeze
      HOUR = 3600 * Calendar::MICROS
      private_constant :HOUR

      # @return [Integer, nil] N of "in the last N days"
      attr_reader :last_days
      # @return [Integer, nil] N of "in the last N hours"
      attr_reader :last_hours
      # @return [Integer, nil] N of "within N days of being first seen", the day of being first seen counting as one
      attr_reader :first_days
      # @return [Integer, nil] how many of these days are left out, the first ones
      attr_reader :after_first_days
      # @return [Date, nil]
      attr_reader :from
      # @return [Date, nil] included
      attr_reader :to
      # @return [Array<Integer>, nil] 1 for Monday to 7 for Sunday
      attr_reader :weekdays
      # @return [Array(Integer, Integer), nil] from an hour of the day to another, which is left out; 22 to 6 goes over
      #   midnight
      attr_reader :hours

      # @param json [Hash, nil] as in the definition; nil means ever
      # @return [Window]
      def self.from_h(json)
        json ||= {}
        plain = %w[last_days last_hours first_days after_first_days weekdays hours]
        new(**plain.to_h { |name| [name.to_sym, json[name]] },
            **%w[from to].to_h { |name| [name.to_sym, json[name] && Date.iso8601(json[name])] })
      end

      def initialize(last_days: nil, last_hours: nil, first_days: nil, after_first_days: nil, from: nil, to: nil,
                     weekdays: nil, hours: nil)
        @last_days = last_days
        @last_hours = last_hours
        @first_days = first_days
        @after_first_days = after_first_days
        @from = from
        @to = to
        @weekdays = weekdays&.uniq&.sort&.freeze
        @hours = hours&.dup&.freeze
        freeze
      end

      # @return [Boolean]
      def ever? = BASES.all? { |name| public_send(name).nil? }

      # @return [Boolean] whether it has a first or a last day that are always the same
      def dates? = !(from || to).nil? && (BASES - %w[from to]).all? { |name| public_send(name).nil? }

      # @return [Boolean] whether the day on which a person was first seen is needed to tell
      def relative? = !(first_days || after_first_days).nil?

      # A day before which nothing lies in the window.
      #
      # @param as_of [Date]
      # @return [Date, nil] nil where there is none for everybody
      def first_day(as_of)
        return as_of - last_days + 1 if last_days

        last_hours ? as_of - (last_hours / 24) - 1 : from
      end

      # @param as_of [Date]
      # @param calendar [Calendar]
      # @return [Polars::Expr] on the columns `day` and `occurred_at`, and `first_seen_day` where the window is
      #   {#relative?}
      def expression(as_of, calendar)
        [*range(as_of, calendar), *clock(calendar)].reduce(:&)
      end

      # @return [Hash] plain JSON
      def to_h
        base = { "last_days" => last_days, "last_hours" => last_hours, "first_days" => first_days,
                 "after_first_days" => after_first_days, "from" => from&.iso8601, "to" => to&.iso8601 }.compact
        base = { "ever" => true } if base.empty?
        { **base, "weekdays" => weekdays, "hours" => hours }.compact
      end

      private

      def range(as_of, calendar)
        day = Polars.col("day")
        last = Calendar.number(to && to < as_of ? to : as_of)
        conditions = [day <= last]
        conditions << (day > Calendar.number(as_of) - last_days) if last_days
        conditions << (day >= Calendar.number(from)) if from
        conditions << (day < Polars.col("first_seen_day") + first_days) if first_days
        conditions << (day >= Polars.col("first_seen_day") + after_first_days) if after_first_days
        conditions << (Polars.col("occurred_at") >= calendar.end_of(as_of) - (last_hours * HOUR)) if last_hours
        conditions
      end

      # Day number 0 was a Thursday.
      def clock(calendar)
        conditions = []
        conditions << ((Polars.col("day") + 3) % 7).is_in(weekdays.map { |weekday| weekday - 1 }) if weekdays
        conditions << hour_expression(calendar.hours_of_day(Polars.col("occurred_at"))) if hours
        conditions
      end

      def hour_expression(hour)
        first, after = hours
        first < after ? (hour >= first) & (hour < after) : (hour >= first) | (hour < after)
      end
    end
  end
end
