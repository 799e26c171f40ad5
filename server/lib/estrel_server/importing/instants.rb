# frozen_string_literal: true

module EstrelServer
  module Importing
    # Reads times in one format, named by the user or detected once per file, into the text the database takes
    # ("2026-05-03 09:00:00.000000", UTC). Such texts compare like the instants they stand for.
    class Instants
      FORMATS = %w[iso8601 epoch_s epoch_ms day_first month_first].freeze
      # Those in which a date is written with its year last.
      YEAR_LAST = %w[day_first month_first].freeze
      EARLIEST = "1970-01-01 00:00:00.000000"
      ISO = %r{\A(\d{4})[-/](\d\d)[-/](\d\d)
             (?:[Tt ](\d\d):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?)?\s*([Zz]|[+-]\d\d(?::?\d\d)?)?\z}x
      # "3.4.2025", "03/04/2025 2:05 pm"
      SLASHED = %r{\A(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d\d)
                   (?:[,T\s]\s?(\d{1,2}):(\d\d)(?::(\d\d)(?:[.,](\d{1,9}))?)?\s?([AaPp][Mm])?)?
                   \s?([Zz]|[+-]\d\d:?\d\d)?\z}x
      # The usual form, read without taking it apart.
      PLAIN_UTC = /\A\d{4}-\d\d-\d\dT(?:[01]\d|2[0-3]):[0-5]\d:[0-5]\d(?:\.\d{1,6})?Z\z/
      DIGITS = /\A-?\d{1,17}(?:\.\d{1,9})?\z/

      # A time that cannot be used; the message says why.
      class Unusable < Error; end
      # Raised when a file's times have no common format.
      class Undetectable < Error; end

      # @return [String] one of {FORMATS}
      attr_reader :format

      # @param samples [Array<String, Numeric>] times from the head of the file
      # @return [String] one of {FORMATS}
      # @raise [Undetectable]
      def self.detect(samples)
        texts = samples.map(&:to_s).reject(&:empty?)
        return "iso8601" if texts.empty?

        kinds = texts.map { |text| kind(text) }.tally
        kind, count = kinds.max_by(&:last)
        return kind if kind && count >= texts.size * 0.9

        slashed(texts) or
          raise(Undetectable, "the times have different formats; choose one: #{FORMATS.join(", ")}")
      end

      # @param texts [Array<String>]
      # @return [String, nil] which of {YEAR_LAST} the dates can only be in; nil where that cannot be told
      def self.slashed(texts)
        parts = texts.filter_map { |text| SLASHED.match(text)&.captures&.first(2)&.map(&:to_i) }
        return if parts.size < texts.size * 0.9

        days = parts.any? { |first, _| first > 12 }
        months = parts.any? { |_, second| second > 12 }
        return if days == months

        days ? "day_first" : "month_first"
      end

      # @param text [String]
      # @return [Boolean] whether it says on which clock it was read
      def self.zoned?(text) = text.match?(/(?:[Zz]|\d[+-]\d\d:?\d\d)\z/) || !text.match?(%r{[-/.]})

      # Seconds have 9 or 10 digits between 1973 and 2286, milliseconds 12 or 13.
      def self.kind(text)
        return "iso8601" if text.match?(%r{\A\d{4}[-/]})

        case text[/\A\d+/]&.size
        when 9, 10 then "epoch_s"
        when 12, 13 then "epoch_ms"
        end
      end
      private_class_method :kind

      # @param format [String] one of {FORMATS}
      # @param latest [Time] the latest instant accepted
      # @param earliest [Time, nil] from when on events are kept
      # @param time_zone [String, nil] for times written without one; nil refuses them
      def initialize(format, latest:, earliest: nil, time_zone: nil)
        @format = format
        @latest = database_text(latest)
        @earliest = earliest && database_text(earliest)
        @zone = time_zone && TZInfo::Timezone.get(time_zone)
        @real_days = {}
      end

      # @param value [String, Numeric]
      # @return [String] as the database takes it
      # @raise [Unusable]
      def read(value)
        text = if format == "iso8601" then iso8601(value.to_s)
               else
                 YEAR_LAST.include?(format) ? year_last(value.to_s.strip) : epoch(value)
               end
        raise Unusable, "the time #{value} is before 1970" if text < EARLIEST
        raise Unusable, "the time #{value} is in the future" if text > @latest
        raise Unusable, "the time #{value} is older than the retention period" if @earliest && text < @earliest

        text
      end

      private

      def iso8601(text)
        if text.match?(PLAIN_UTC) && real_day?(text[0, 10])
          return "#{text[0, 10]} #{text[11, 8]}.#{text.length == 20 ? "000000" : text[20..-2].ljust(6, "0")}"
        end

        match = ISO.match(text) or raise Unusable,
                                         "#{text[0, 60].inspect} is not a time such as \"2026-10-31T14:05:00Z\""
        year, month, day, hour, minute, second, fraction, offset = match.captures
        unless real_day?("#{year}-#{month}-#{day}") && hour.to_i < 24 && minute.to_i < 60 && second.to_i < 60
          raise Unusable, "there is no such time as #{text[0, 60].inspect}"
        end

        micros = (fraction || "")[0, 6].ljust(6, "0")
        clock = "#{year}-#{month}-#{day} #{hour || "00"}:#{minute || "00"}:#{second || "00"}.#{micros}"
        offset.nil? || !offset.match?(/\A[Zz]\z/) ? shifted(clock, offset, text) : clock
      end

      # Written anew with its year first, and read as such.
      def year_last(text)
        match = SLASHED.match(text) or raise Unusable, "#{text[0, 60].inspect} is not a date such as \"31/10/2026\""
        one, two, year, hour, minute, second, fraction, half, offset = match.captures
        day, month = format == "day_first" ? [one, two] : [two, one]
        year = year.to_i < 70 ? "20#{year}" : "19#{year}" if year.size == 2
        clock = Kernel.format("%02d:%s:%s.%s", hour_of(hour, half), minute || "00", second || "00", fraction || "0")
        iso8601(Kernel.format("%s-%02d-%02dT%s%s", year, month.to_i, day.to_i, clock, offset))
      end

      def hour_of(hour, half)
        return hour.to_i unless half

        (hour.to_i % 12) + (half.casecmp?("pm") ? 12 : 0)
      end

      def real_day?(day)
        found = @real_days[day]
        return found unless found.nil?

        @real_days.clear if @real_days.size > 50_000
        @real_days[day] = !day.start_with?("0000") && Date.valid_date?(*day.split("-").map { |part| Integer(part, 10) })
      end

      def shifted(clock, offset, text)
        local = Time.utc(*clock.scan(/\d+/).first(6).map { |part| Integer(part, 10) }, Integer(clock[-6, 6], 10))
        return database_text(local - seconds(offset)) if offset
        raise Unusable, "the time #{text} has no time zone; choose the one it was written in" unless @zone

        database_text(@zone.local_to_utc(local, &:first))
      rescue TZInfo::PeriodNotFound
        raise Unusable, "the time #{text} does not exist in #{@zone.name} (clock change)"
      end

      def seconds(offset)
        hours, minutes = offset.delete(":")[1..].scan(/\d\d/).map { |part| Integer(part, 10) }
        ((hours * 3600) + (minutes.to_i * 60)) * (offset.start_with?("-") ? -1 : 1)
      end

      def epoch(value)
        text = value.to_s
        unless text.match?(DIGITS)
          raise Unusable,
                "#{text[0, 60].inspect} is not a number of #{format == "epoch_s" ? "seconds" : "milliseconds"}"
        end

        micros = (text.to_r * (format == "epoch_s" ? 1_000_000 : 1_000)).to_i
        raise Unusable, "the time #{text} is in the future" if micros > 32_503_680_000_000_000

        database_text(Time.at(micros / 1_000_000, micros % 1_000_000, :usec))
      end

      def database_text(time) = time.getutc.strftime("%Y-%m-%d %H:%M:%S.%6N")
    end
  end
end
