# frozen_string_literal: true

module Estrel
  module Analyses
    # Of people who did something, how many did something again, period by period: cohorts by the step in which they
    # began, and the curve that all of them make together. Counts add up over the parts.
    #
    # A return lies later than the start, so the start never counts as its own. Period k is the k-th step after the
    # start's, or of elapsed time, so many days of 24 hours after the start's instant: more than so many, and at most as
    # many more as a period has.
    class Retention < Analysis
      include OfEvents
      include AtTheTime
      include Cohorted

      # Lines beside each other, at most.
      MOST_LINES = 8
      # Days of 24 hours in an elapsed period.
      ELAPSED = { "day" => 1, "week" => 7, "month" => 30 }.freeze
      # How a return counts, and whether it can be told of the period of the start itself.
      COUNTED = { "in" => true, "or_later" => true, "and_before" => false, "every" => false, "by" => false,
                  "ranges" => true }.freeze

      def partial(part, found)
        counting = Counting.new(self, part)
        counting?(found) ? counting.values : counting.to_h(labels(found))
      end

      def answer(found)
        lines = groups.named(labels(found)).each_with_index.map { |group, at| Line.new(self, found.last, group, at) }
        Answer.new(finding: Finding.new(self, lines).to_s, picture: picture(lines), caveats: caveats,
                   tables: Tables.new(self, lines).all)
      end

      # @return [Audience::Selection]
      def return_to = @return_to ||= Metric.selection(question["return"], workspace.catalogue, "return")

      # @return [Boolean] whether periods are counted from the instant of the start rather than by the calendar
      def elapsed? = question["elapsed"] == true

      # @return [Integer] microseconds of an elapsed period
      def elapsed = ELAPSED.fetch(steps.unit) * 86_400 * Calendar::MICROS

      # @return [String] of {COUNTED}
      def counted = question["counted"] || "in"

      # @return [Array<Range<Integer>>] of each place of the curve, its periods after the start
      def places
        @places ||= if counted == "ranges" then question["ranges"].map { |from, to| from..to }
                    else
                      ((COUNTED.fetch(counted) ? 0 : 1)...cohorts).map { |period| period..period }
                    end
      end

      # @param cohort [Integer]
      # @param place [Range<Integer>]
      # @return [Boolean] whether the place has passed for all of the cohort
      def complete?(cohort, place)
        return false unless periods[cohort][:complete]
        return periods[cohort + place.end]&.fetch(:complete) == true unless elapsed?

        calendar = workspace.ledger.calendar
        passed = calendar.end_of(workspace.as_of) - calendar.end_of(periods[cohort][:to])
        workspace.ended? && passed >= (place.end + 1) * elapsed
      end

      # @param place [Range<Integer>]
      # @return [String] "week 3", "days 1–3"
      def said(place)
        return "#{steps.unit} #{place.begin}" if place.size == 1

        "#{steps.unit}s #{place.begin}–#{place.end}"
      end

      # @return [String] "ended a ride"
      def return_words = words(return_to, "return")

      # @return [Integer, nil] number of the place that is looked at cohort by cohort
      def looked_at = question["at"] && places.index { |place| place.begin == question["at"] }

      private

      def rests_on
        check
        [*super, steps.key, counted]
      end

      def check
        [start, return_to, steps]
        check_ranges if counted == "ranges"
        if places.empty?
          raise Invalid.at("step", "only one #{steps.unit} in this period; choose a longer period or a shorter " \
                                   "interval")
        end

        check_lines
      end

      def check_ranges
        ranges = question["ranges"] or raise Invalid.at("ranges", "define the period ranges")
        message = if ranges.any? { |from, to| from > to } then "a range of periods ends before it begins"
                  elsif ranges.flatten.max >= cohorts
                    "this period has only #{English.counted(cohorts, steps.unit)}"
                  end
        raise Invalid.at("ranges", message) if message
      end

      def picture(lines)
        cohorts = periods.each_index.map do |cohort|
          { **periods[cohort].slice(:from, :to, :complete),
            places: places.map { |place| complete?(cohort, place) } }
        end
        told = places.map { |place| { from: place.begin, to: place.end, said: said(place) } }
        { step: steps.unit, elapsed: elapsed?, first: first?, counted: counted, start: start_words,
          return: return_words, cohorts: cohorts, places: told, at: looked_at, rows: lines.map(&:to_h) }
      end

      def caveats
        found = [*data_begins]
        found << "Months are counted as 30 days of 24 hours." if elapsed? && steps.unit == "month"
        found << "People cannot be listed for these periods." if elapsed?
        found << "People in several audiences count in each." if audiences.size > 1 && !split
        found + told_by("at the start event")
      end
    end
  end
end
