# frozen_string_literal: true

module Estrel
  # What people did before and after a day of their own: on which they did something for the first time, or the same
  # date for all of an audience. Everybody's day 0 is laid over the others'; day 0 itself counts for neither side.
  #
  # Looked at are people who had been known for all the days before and whose days after are over. Beside them stands,
  # where there is one, a group of people who did not do it but were alike, see {Matching}.
  class BeforeAfter
    CAVEAT = "People choose what they do, so what is seen after may have led to it rather than come of it. The " \
             "matched people were alike in state and in what they did before, but may differ in all else. Only a " \
             "holdout tells what caused what."
    DATE_CAVEAT = "Whatever else changed around the date shows here too, the season not least."
    # Days on each side.
    DAYS = (1..365)

    # A question that makes no sense.
    class Invalid < Error; end

    # @param evaluator [Audience::Evaluator] as of the date up to which events are looked at
    # @param start [Start]
    # @param measure [Measure]
    # @param before [Integer] days
    # @param after [Integer] days
    # @raise [Invalid]
    def initialize(evaluator, start, measure, before:, after:)
      unless [before, after].all? { |days| days.is_a?(Integer) && DAYS.cover?(days) }
        raise Invalid, "days before and after are whole numbers from #{DAYS.min} to #{DAYS.max}"
      end

      @evaluator = evaluator
      @start = start
      @measure = measure
      @before = before
      @after = after
    end

    # @return [Hash] plain JSON
    def to_h
      { people: people.height, known_too_late: known_too_late.height, not_over: not_over.height,
        measure: @measure.to_s, start: @start.to_s, before: @before, after: @after, series: series(people),
        **side(people), matched: matched, takeaway: takeaway,
        caveat: [*(DATE_CAVEAT if @start.date?), *(CAVEAT unless @start.date? && matched.nil?)].join(" ") }
    end

    # @return [Polars::DataFrame] `profile_id` and `day` (0) of those looked at
    def people = @people ||= starts.filter(over_by_now & known_before)

    # @return [Polars::DataFrame] pairs of people and those they are matched with, see {Matching#pairs}
    def pairs
      @pairs ||= Matching.new(@evaluator, @start, @measure, before: @before, after: @after).pairs(people)
    end

    private

    def starts = @starts ||= @start.days(@evaluator).join(@evaluator.first_seen, on: "profile_id", how: "left")

    # Conditions on the rows.
    def over_by_now = Polars.col("day").le(Calendar.number(@evaluator.as_of) - @after)

    def known_before = Polars.col("first_seen_day").le(Polars.col("day") - @before)

    def known_too_late = starts.filter(known_before.is_not)

    def not_over = starts.filter(known_before & over_by_now.is_not)

    # The mean per person of each day from the first before to the last after, with its interval.
    def series(rows)
      days = (-@before..@after).to_a
      found = sums(rows).then { |sums| days.map { |at| sums.fetch(at, [0, 0]) } }
      days.zip(found, Statistics.mean_intervals(rows.height, found)).map do |at, (sum, _), (low, high)|
        { day: at, mean: rows.height.zero? ? nil : sum.fdiv(rows.height), low: low, high: high }
      end
    end

    # By day, the sum over the rows of what each has on it, and of its square.
    def sums(rows)
      value = Polars.col("value")
      each = relative(rows).lazy.group_by(%w[at row]).agg([value.sum])
      each.group_by("at").agg([value.sum.alias("sum"), (value * value).sum.alias("squares")]).collect
          .rows.to_h { |at, *found| [at, found] }
    end

    # Events of each row's person by their distance from the row's day.
    def relative(rows)
      numbered = rows.select(%w[profile_id day]).with_row_index(name: "row")
      @measure.events(@evaluator, rows["day"].min.to_i - @before, rows["day"].max.to_i + @after)
              .rename({ "day" => "on" }).join(numbered, on: "profile_id", how: "inner")
              .with_columns([(Polars.col("on") - Polars.col("day")).alias("at")])
              .filter(Polars.col("at").is_between(-@before, @after))
    end

    # Per person and day, before and after, in the rows' order.
    def rates(rows)
      found = relative(rows).lazy.group_by("row").agg([part(Polars.col("at") < 0, @before, "before"), # rubocop:disable Style/NumericPredicate
                                                       part(Polars.col("at") > 0, @after, "after")]) # rubocop:disable Style/NumericPredicate
      rows.with_row_index(name: "row").lazy.join(found, on: "row", how: "left").sort("row")
          .select([Polars.col("before").fill_null(0.0), Polars.col("after").fill_null(0.0)]).collect
    end

    def part(inside, days, name) = (Polars.col("value").filter(inside).sum.cast(Polars::Float64) / days).alias(name)

    def side(rows)
      found = rates(rows)
      { mean_before: found["before"].mean, mean_after: found["after"].mean,
        difference: Statistics.paired(found["after"] - found["before"]) }
    end

    # Those who have somebody like them, beside these.
    def matched
      return @matched if defined?(@matched)

      @matched = pairs && (pairs.height.zero? ? nil : compared)
    end

    def compared
      others = pairs.select([Polars.col("matched_id").alias("profile_id"), Polars.col("day")])
      own, theirs = [pairs.select(%w[profile_id day]), others].map { |rows| rates(rows) }
      gain = (own["after"] - own["before"]) - (theirs["after"] - theirs["before"])
      { pairs: pairs.height, series: series(others), mean_before: theirs["before"].mean,
        mean_after: theirs["after"].mean, own_before: own["before"].mean, own_after: own["after"].mean,
        difference: Statistics.paired(gain) }
    end

    def takeaway
      return "Nobody can be looked at: #{why_nobody}." if people.height.zero?

      own = side(people)
      told = "#{number(people.height)} people #{@start}: #{@measure} went from #{amount(own[:mean_before])} to " \
             "#{amount(own[:mean_after])} per person and day#{interval(own[:difference])}."
      return told if matched.nil?

      "#{told} #{against}"
    end

    def why_nobody
      return "nobody #{@start}#{@start.period}" if starts.height.zero?

      "of #{number(starts.height)} people, #{number(known_too_late.height)} had not been known for #{@before} days, " \
        "and of the others the days after are not over"
    end

    def against
      found = matched[:difference]
      change = "from #{amount(matched[:mean_before])} to #{amount(matched[:mean_after])}"
      verdict = if found.nil? || 0.between?(found[:low], found[:high]) then "that is no clear difference"
                else
                  done, how = found[:estimate].positive? ? %w[gained on] : %w[fell behind]
                  "those who did #{done} #{amount(found[:estimate].abs)} #{how} them"
                end
      "#{number(matched[:pairs])} like them who did not went #{change}: #{verdict}#{interval(found)}."
    end

    def number(count) = Audience::Wording.number(count)

    def interval(found) = found ? " (#{signed(found[:low])} to #{signed(found[:high])}, 95 % interval)" : ""

    # Rates are often small: three decimals, or two figures that tell.
    def amount(value)
      return "0" if value.zero?
      return format("%.3f", value) if value.abs >= 0.1

      format("%.*f", 1 - Math.log10(value.abs).floor, value)
    end

    def signed(value) = "#{"+" if value.positive?}#{amount(value)}".sub("-", "−")
  end
end
