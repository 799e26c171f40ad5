# frozen_string_literal: true

module Estrel
  # How events arrive: how late after they occurred, per source, and which sources have gone silent.
  class Receiving
    MINUTE = 60 * Calendar::MICROS
    HOUR = 60 * MINUTE
    DAY = 24 * HOUR
    # How many days of receipts tell what is usual for a source.
    USUAL_DAYS = 90
    # Classes of lateness: label and the longest delay that belongs to it, microseconds; nil for what is later.
    CLASSES = { "1 minute" => MINUTE, "1 hour" => HOUR, "1 day" => DAY, "7 days" => 7 * DAY, "later" => nil }.freeze
    # A source is silent when it has been silent for longer than this and for longer than this many times the longest
    # pause of its last days.
    SILENT_AFTER = DAY
    SILENT_FACTOR = 3
    # Whoever was heard on fewer days delivers now and then, and cannot be late.
    REGULAR_DAYS = 7

    # @param generation [Ledger::Generation]
    def initialize(generation)
      @generation = generation
    end

    # Per source, the events received in the days up to a date, by how long after they occurred.
    #
    # @param to [Date] the last day of receipt
    # @param days [Integer] how many days of receipt
    # @return [Array<Hash>] `source`, `events`, `within` (one count per class of {CLASSES}), the most events first
    def lateness(to, days)
      counted = received(to, days).map { |frame| classes(frame) }
      return [] if counted.empty?

      sums = Polars.concat(counted).group_by("source_id").agg(CLASSES.keys.map { |label| Polars.col(label).sum })
      rows = sums.rows(named: true).map do |row|
        { source: source_name(row["source_id"]), events: row.values_at(*CLASSES.keys).sum,
          within: row.values_at(*CLASSES.keys) }
      end
      rows.sort_by { |row| [-row[:events], row[:source]] }
    end

    # How long each source has been silent at an instant, and whether that is longer than it usually pauses.
    #
    # @param now [Integer] instant
    # @return [Array<Hash>] `source`, `last_received_at` (instant), `usual_pause` (the longest of its last days,
    #   microseconds; nil where it does not deliver regularly), `silent` (boolean), by source
    def pauses(now)
      minute = (Polars.col("received_at").floordiv(MINUTE) * MINUTE).alias("received_at")
      frames = @generation.catalogue.event_types.each_key.map do |type|
        @generation.scan(type).filter(Polars.col("received_at") <= now)
                   .select([Polars.col("source_id"), minute]).unique.collect
      end
      return [] if frames.empty?

      minutes = Polars.concat(frames).unique.sort(%w[source_id received_at])
      minutes.partition_by("source_id").map { |part| pause(part["source_id"][0], part["received_at"], now) }
             .sort_by { |row| row[:source] }
    end

    # One or two plain sentences about what {lateness} and {pauses} found.
    #
    # @param to [Date]
    # @param days [Integer]
    # @param now [Integer] instant
    # @return [String]
    def finding(to, days, now)
      rows = lateness(to, days)
      total = rows.sum { |row| row[:events] }
      return "No events received in the #{days} days to #{English.date(to)}." if total.zero?

      prompt = rows.sum { |row| row[:within].first }
      prompt_share = percent(prompt, total)
      said = "#{prompt_share} of #{English.counted(total, "event")} arrived within a minute (#{days} days to " \
             "#{English.date(to)})."
      [said, latest(rows), silence(now)].compact.join(" ")
    end

    private

    # The source whose events most often take more than a day.
    def latest(rows)
      worst = rows.max_by { |row| late(row).fdiv(row[:events]) }
      return if late(worst).zero?

      "Slowest source: #{worst[:source]}, #{percent(late(worst), worst[:events])} of events more than a day late."
    end

    def late(row) = row[:within].last(2).sum

    def silence(now)
      silent = pauses(now).select { |row| row[:silent] }.map { |row| row[:source] }
      return if silent.empty?

      "No events from #{English.list(silent, "and")} for longer than usual."
    end

    def percent(part, whole)
      share = 100.0 * part / whole
      share.positive? && share < 1 ? "Less than 1%" : "#{share.floor}%"
    end

    def received(to, days)
      calendar = @generation.calendar
      from = calendar.start_of(to - days + 1)
      after = calendar.end_of(to)
      window = (Polars.col("received_at") >= from) & (Polars.col("received_at") < after)
      @generation.catalogue.event_types.each_key.map do |type|
        @generation.scan(type).filter(window)
                   .select([Polars.col("source_id"),
                            (Polars.col("received_at") - Polars.col("occurred_at")).alias("late")]).collect
      end
    end

    def classes(frame)
      lower = nil
      sums = CLASSES.map do |label, longest|
        inside = Polars.lit(true)
        inside &= Polars.col("late") > lower if lower
        inside &= Polars.col("late") <= longest if longest
        lower = longest
        inside.cast(Polars::Int64).sum.alias(label)
      end
      frame.group_by("source_id").agg(sums)
    end

    def pause(source_id, received, now)
      recent = received.filter(received > received[-1] - (USUAL_DAYS * DAY))
      regular = recent.to_a.map { |instant| instant / DAY }.uniq.size >= REGULAR_DAYS
      usual = regular ? recent.diff.drop_nulls.max : nil
      pause = now - received[-1]
      { source: source_name(source_id), last_received_at: received[-1], usual_pause: usual,
        silent: !usual.nil? && pause > SILENT_AFTER && pause > SILENT_FACTOR * usual }
    end

    def source_name(id) = @generation.catalogue.sources.fetch(id, "?")
  end
end
