# frozen_string_literal: true

module Estrel
  module Audience
    # The English of single phrases of a definition: what was done, counts, windows, comparisons.
    module Wording
      COMPARISONS = {
        "is" => "is", "is_not" => "is not", "contains" => "contains", "does_not_contain" => "does not contain",
        "greater" => "is more than", "at_least" => "is at least", "less" => "is less than", "at_most" => "is at most",
        "before" => "is before", "after" => "is after", "is_set" => "is set", "is_not_set" => "is not set",
        "starts_with" => "starts with", "ends_with" => "ends with", "one_of" => "is one of", "none_of" => "is none of",
        "between" => "is between"
      }.freeze
      MEASURES = { "sum" => "total", "mean" => "mean", "min" => "minimum", "max" => "maximum",
                   "distinct" => "number of distinct values of", "first" => "first", "last" => "last",
                   "most_frequent" => "most frequent" }.freeze
      WEEKDAYS = %w[Mondays Tuesdays Wednesdays Thursdays Fridays Saturdays Sundays].freeze
      PAST = { "is" => "was ever", "is_not" => "was ever not", "contains" => "has ever contained",
               "does_not_contain" => "at some time did not contain", "is_set" => "was ever set",
               "is_not_set" => "was ever not set", "starts_with" => "ever started with",
               "ends_with" => "ever ended with" }.freeze

      module_function

      # @param count [Count]
      # @return [String]
      def count(count)
        return units(count) unless count.unit == "events"

        minimum = count.minimum
        maximum = count.maximum
        return "at least #{English.times(minimum)}" if maximum.nil?
        return "exactly #{English.times(minimum)}" if minimum == maximum

        minimum.zero? ? "at most #{English.times(maximum)}" : "between #{minimum} and #{maximum} times"
      end

      # @param window [Window]
      # @return [String]
      def window(window)
        [range(window), weekdays(window.weekdays), hours(window.hours)].compact.join(" ")
      end

      # @param comparison [Comparison]
      # @param names [Names]
      # @param field [Catalogue::Field, nil] whose values they are
      # @return [String] what is compared with: "5 km", "app or kiosk", "3 and 8"
      def values(comparison, names, field)
        joint = comparison.operator == "between" ? "and" : "or"
        English.list(Array(comparison.value).map { |entry| English.shortened(names.said(field, entry)) }, joint)
      end

      # @param operator [String] of a comparison
      # @param ever [Boolean] about any value there has been
      # @return [String] "is at least", or "was ever at least"
      def comparison(operator, ever: false)
        now = COMPARISONS.fetch(operator)
        ever ? PAST.fetch(operator) { now.sub("is ", "was ever ") } : now
      end

      # Phrases of {window}.
      def range(window)
        return "in the last #{English.counted(window.last_hours, "hour").delete_prefix("1 ")}" if window.last_hours
        return since_first(window) if window.relative?
        return dates(window) unless window.last_days

        window.last_days == 1 ? "on the as-of day" : "in the last #{window.last_days} days"
      end
      private_class_method :range

      # The day of being first seen is day 1.
      def since_first(window)
        last = window.first_days
        first = window.after_first_days.to_i + 1
        return last == 1 ? "on their first day" : "within #{last} days of first seen" if first == 1
        return "from day #{first} after first seen" if last.nil?

        "on day#{"s" unless first == last} #{[first, last].uniq.join(" to ")} after first seen"
      end
      private_class_method :since_first

      def dates(window)
        return "on #{English.date(window.from)}" if window.from && window.from == window.to
        return "between #{English.date(window.from)} and #{English.date(window.to)}" if window.from && window.to
        return "on or after #{English.date(window.from)}" if window.from

        window.to ? "on or before #{English.date(window.to)}" : "at any time"
      end
      private_class_method :dates

      def weekdays(numbers) = numbers && "on #{English.list(numbers.map { |number| WEEKDAYS[number - 1] }, "or")}"
      private_class_method :weekdays

      def hours(hours) = hours && format("from %02d:00 to %02d:00", *hours)
      private_class_method :hours

      # "on at least 3 days", "in exactly 2 visits"
      def units(count)
        return "in no visit" if count.maximum&.zero?

        word = count.unit == "days" ? "on" : "in"
        number = if count.maximum.nil? then "at least #{count.minimum}"
                 elsif count.minimum == count.maximum then "exactly #{count.minimum}"
                 else count.minimum.zero? ? "at most #{count.maximum}" : "between #{count.minimum} and #{count.maximum}"
                 end
        "#{word} #{number} #{(count.maximum || count.minimum) == 1 ? count.unit.delete_suffix("s") : count.unit}"
      end
      private_class_method :units
    end
  end
end
