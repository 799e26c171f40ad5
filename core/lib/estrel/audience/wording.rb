# frozen_string_literal: true

module Estrel
  module Audience
    # The English of single phrases: event types, counts, windows, comparisons, values.
    module Wording
      COMPARISONS = {
        "is" => "is", "is_not" => "is not", "contains" => "contains", "does_not_contain" => "does not contain",
        "greater" => "is more than", "at_least" => "is at least", "less" => "is less than", "at_most" => "is at most",
        "before" => "is before", "after" => "is after", "is_set" => "is set", "is_not_set" => "is not set",
        "starts_with" => "starts with", "ends_with" => "ends with", "one_of" => "is one of", "none_of" => "is none of",
        "between" => "is between"
      }.freeze
      MEASURES = { "sum" => "total", "mean" => "mean", "min" => "least", "max" => "greatest",
                   "distinct" => "number of different values of", "first" => "first", "last" => "last",
                   "most_frequent" => "most frequent" }.freeze
      WEEKDAYS = %w[Mondays Tuesdays Wednesdays Thursdays Fridays Saturdays Sundays].freeze
      PAST = { "is" => "was ever", "is_not" => "was ever not", "contains" => "has ever contained",
               "does_not_contain" => "has at some time not contained", "is_set" => "was ever set",
               "is_not_set" => "was ever not set", "starts_with" => "ever started with",
               "ends_with" => "ever ended with" }.freeze
      IRREGULAR = %w[bought sent paid made left lost found sold read told met won put set cut].freeze
      MASS = %w[feedback money content help news information].freeze
      private_constant :IRREGULAR, :MASS

      module_function

      # A past participle phrase where the name has the common shape thing_verb: "ride_ended" → "ended a ride".
      #
      # @param name [String] of an event type
      # @return [String, nil] nil where the name has another shape
      def participle(name)
        *thing, verb = name.split("_")
        return if thing.empty? || !(verb.match?(/\A[a-z]{2,}ed\z/) || IRREGULAR.include?(verb))

        words = thing.join(" ")
        "#{verb} #{article(words)}#{words}"
      end

      # @return [String] what somebody did: "ended a ride", or "did page_view"
      def done(name) = participle(name) || "did #{name}"

      # @return [String] the same after "have not": "bought a pass", or "done page_view"
      def not_done(name) = participle(name) || "done #{name}"

      # @param selection [Selection]
      # @param done [Boolean] rather than "have not …"
      # @return [String] what somebody did: "ended a ride", "ended a ride or bought a pass", "did anything"
      def events(selection, done: true)
        return done ? "did anything" : "done anything" unless selection.events

        list(selection.events.map { |name| done ? done(name) : not_done(name) }, "or")
      end

      # @param count [Count]
      # @return [String]
      def count(count)
        return units(count) unless count.unit == "events"

        minimum = count.minimum
        maximum = count.maximum
        return "at least #{times(minimum)}" if maximum.nil?
        return "exactly #{times(minimum)}" if minimum == maximum

        minimum.zero? ? "at most #{times(maximum)}" : "between #{minimum} and #{maximum} times"
      end

      # @param window [Window]
      # @return [String]
      def window(window)
        [range(window), weekdays(window.weekdays), hours(window.hours)].compact.join(" ")
      end

      # @param within [Hash] such as `{"days" => 7}`
      # @return [String] "7 days", "a day"
      def within(within)
        unit, count = within.first
        if count == 1
          "#{unit == "hours" ? "an" : "a"} #{unit.delete_suffix("s")}"
        else
          "#{count} #{unit}"
        end
      end

      # @param comparison [Comparison]
      # @return [String] what is compared with: "5", "“a” or “b”", "3 and 8"
      def values(comparison)
        return value(comparison.value) unless comparison.value.is_a?(Array)

        list(comparison.value.map { |entry| value(entry) }, comparison.operator == "between" ? "and" : "or")
      end

      # @param operator [String] of a comparison
      # @param ever [Boolean] about any value there has been
      # @return [String] "is at least", or "was ever at least"
      def comparison(operator, ever: false)
        now = COMPARISONS.fetch(operator)
        ever ? PAST.fetch(operator) { now.sub("is ", "was ever ") } : now
      end

      # @param value [Object] of a comparison
      # @return [String]
      def value(value)
        case value
        when Date then date(value)
        when Float then (value % 1).zero? ? value.to_i.to_s : value.to_s
        when "" then "(empty)"
        else value.to_s
        end
      end

      # @param date [Date]
      # @return [String] "3 May 2026"
      def date(date) = date.strftime("%-d %B %Y")

      # @param channel [String]
      # @return [String] "e-mail"
      def channel(channel) = { "email" => "e-mail", "sms" => "SMS", "push" => "push message" }.fetch(channel, channel)

      # @param words [Array<String>]
      # @return [String] "new, active or dormant"
      def either(words) = list(words, "or")

      # @param words [Array<String>]
      # @param joint [String] before the last one
      # @return [String] "app, kiosk and web"
      def list(words, joint) = words.size < 2 ? words.join : "#{words[..-2].join(", ")} #{joint} #{words.last}"

      # @param value [Integer]
      # @return [String] "12,345"
      def number(value) = value.to_s.reverse.scan(/\d{1,3}/).join(",").reverse

      # @param share [Float]
      # @return [String] "12 %"; below ten with one decimal
      def percent(share)
        value = (share * 100).round(share.abs < 0.1 ? 1 : 0)
        "#{value == value.to_i ? value.to_i : value} %"
      end

      # Phrases of {window}.
      def range(window)
        return "in the last #{window.last_hours} hours" if window.last_hours
        return within_first(window.first_days) if window.first_days
        return dates(window) unless window.last_days

        window.last_days == 1 ? "on the last day" : "in the last #{window.last_days} days"
      end
      private_class_method :range

      def within_first(days)
        days == 1 ? "on the day of being first seen" : "within #{days} days of being first seen"
      end
      private_class_method :within_first

      def dates(window)
        return "between #{date(window.from)} and #{date(window.to)}" if window.from && window.to
        return "on or after #{date(window.from)}" if window.from

        window.to ? "on or before #{date(window.to)}" : "at any time"
      end
      private_class_method :dates

      def weekdays(numbers) = numbers && "on #{list(numbers.map { |number| WEEKDAYS[number - 1] }, "or")}"
      private_class_method :weekdays

      def hours(hours) = hours && format("from %02d:00 to %02d:00", *hours)
      private_class_method :hours

      # "on at least 3 days", "in exactly 2 visits"
      def units(count)
        word = count.unit == "days" ? "on" : "in"
        number = if count.maximum.nil? then "at least #{count.minimum}"
                 elsif count.minimum == count.maximum then "exactly #{count.minimum}"
                 else count.minimum.zero? ? "at most #{count.maximum}" : "between #{count.minimum} and #{count.maximum}"
                 end
        "#{word} #{number} #{(count.maximum || count.minimum) == 1 ? count.unit.delete_suffix("s") : count.unit}"
      end
      private_class_method :units

      # @param number [Integer] at least 1
      # @return [String] "once", "twice", "5 times"
      def times(number)
        case number
        when 1 then "once"
        when 2 then "twice"
        else "#{number} times"
        end
      end

      def article(words)
        first, last = words.split.then { |list| [list.first, list.last] }
        return "" if MASS.include?(last) || (last.end_with?("s") && !last.end_with?("ss", "us"))

        first.match?(/\A[aeiou]/) ? "an " : "a "
      end
    end
  end
end
