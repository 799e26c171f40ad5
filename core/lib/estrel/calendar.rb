# frozen_string_literal: true

module Estrel
  # Turns instants into calendar days of the workspace's reporting time zone and back, daylight saving included.
  #
  # One frozen calendar lives in every ledger generation; the ledger's `day` columns were computed with it.
  class Calendar
    EPOCH = Date.new(1970, 1, 1)
    EPOCH_JD = EPOCH.jd
    MICROS = 1_000_000
    DAY = 86_400 * MICROS
    # The number of a day after all that can be.
    LAST = (1 << 16) - 2
    private_constant :EPOCH_JD, :LAST, :DAY

    # Raised for a time zone that is not in the tz database.
    class UnknownTimeZone < Error; end

    # @return [String] name in the tz database, for example "Europe/Lisbon"
    attr_reader :time_zone

    # @param time_zone [String]
    # @raise [UnknownTimeZone]
    def initialize(time_zone)
      @zone = TZInfo::Timezone.get(time_zone)
      @time_zone = time_zone.dup.freeze
      freeze
    rescue TZInfo::InvalidTimezoneIdentifier
      raise UnknownTimeZone, "there is no time zone \"#{time_zone}\"; use a name such as \"Europe/Lisbon\" or \"UTC\""
    end

    # @param date [Date]
    # @return [Integer] day number
    def self.number(date) = date.jd - EPOCH_JD

    # @param number [Integer] day number
    # @return [Date]
    def self.date(number) = EPOCH + number

    # @param day [Polars::Expr, Integer] day number
    # @return [Polars::Expr, Integer] number of the week it lies in, which starts on Monday; day number 0 was a Thursday
    def self.weeks(day) = day.is_a?(Integer) ? (day + 3) / 7 : (day + 3).floordiv(7)

    # @param instant [Integer] microseconds since the epoch
    # @return [Date] the calendar day the instant falls on
    def day_of(instant)
      local = @zone.to_local(Time.at(instant.div(MICROS)).utc)
      Date.new(local.year, local.month, local.day)
    end

    # @param date [Date]
    # @return [Integer] the first instant of the day; where daylight saving skips midnight, the first that exists
    def start_of(date) = at(date, 0, 0)

    # @param date [Date]
    # @param hour [Integer]
    # @param minute [Integer]
    # @return [Integer] the instant the wall clock shows this; the first of two where daylight saving repeats an hour,
    #   the end of the gap where it skips one
    def at(date, hour, minute)
      wall = Time.utc(date.year, date.month, date.day, hour, minute)
      @zone.local_to_utc(wall) { |periods| periods.min_by { |period| -period.observed_utc_offset } }.to_i * MICROS
    rescue TZInfo::PeriodNotFound
      @zone.transitions_up_to(wall + 86_400, wall - 86_400).last.at.to_i * MICROS
    end

    # @param date [Date]
    # @return [Integer] the first instant after the day; "as of date" means everything before it
    def end_of(date) = start_of(date + 1)

    # @param column [Polars::Expr] instants as Int64 microseconds
    # @return [Polars::Expr] day numbers as Int32
    def day_numbers(column) = local(column).dt.replace_time_zone(nil).cast(Polars::Date).cast(Polars::Int32)

    # The same for what people did: whatever an old store holds from before 1970 counts as of its first day, since days
    # stand in keys as numbers that are not negative.
    #
    # @param column [Polars::Expr] instants as Int64 microseconds
    # @return [Polars::Expr] day numbers as Int32
    def counted_days(column) = day_numbers(column).clip(0, LAST)

    # @param column [Polars::Expr] instants as Int64 microseconds
    # @return [Polars::Expr] hours of the day on the wall clock, 0 to 23
    def hours_of_day(column) = local(column).dt.hour.cast(Polars::Int32)

    # The same of many instants of which the days are known: only on days of 23 or 25 hours, and before 1970, is each
    # converted by itself.
    #
    # @param instants [Polars::Series] Int64 microseconds
    # @param days [Polars::Series] their {#counted_days}
    # @return [Polars::Series] Int32
    def hours(instants, days)
      return instants.cast(Polars::Int32) if instants.len.zero?

      first = days.min
      starts = (first..days.max).map { |day| start_of(self.class.date(day)) }
      starts = Polars::Series.new("from", starts, dtype: Polars::Int64)
      at, day = %w[at day].map { |name| Polars.col(name) }
      hour = (at - Polars.lit(starts).gather((day - first).cast(Polars::UInt32))).floordiv(DAY / 24)
      odd = day.is_in(odd_days(starts, first)).alias("odd")
      frame = Polars::DataFrame.new([instants.alias("at"), days.alias("day")])
      exactly_where(frame.select([at, hour.cast(Polars::Int32).alias("hour"), odd]))
    end

    private

    # Those on which the wall clock does not go from midnight to midnight in a day.
    def odd_days(starts, first)
      from = Polars.col("from")
      clocks = [from, from + DAY].map.with_index { |at, index| local(at).dt.strftime("%T").alias(index.to_s) }
      starts.to_frame.select(clocks).rows.each_with_index.filter_map do |midnights, index|
        first + index if midnights.any? { |clock| clock != "00:00:00" } || (first + index).zero?
      end
    end

    def exactly_where(hours)
      return hours["hour"] unless hours["odd"].any

      rows = hours.select([Polars.arg_where(Polars.col("odd")).alias("row")])["row"]
      exact = hours.filter(Polars.col("odd")).select([hours_of_day(Polars.col("at")).alias("hour")])
      hours["hour"].scatter(rows, exact["hour"])
    end

    def local(column)
      column.cast(Polars::Datetime.new("us")).dt.replace_time_zone("UTC").dt.convert_time_zone(@time_zone)
    end
  end
end
