# frozen_string_literal: true

module Estrel
  module Audience
    # The English of single phrases: event types, counts, windows, comparisons, values.
    module Wording
      COMPARISONS = {
        "is" => "is", "is_not" => "is not", "contains" => "contains", "does_not_contain" => "does not contain",
        "greater" => "is more than", "at_least" => "is at least", "less" => "is less than", "at_most" => "is at most",
        "before" => "is before", "after" => "is after", "is_set" => "is set", "is_not_set" => "is not set"
      }.freeze
      PAST = { "is" => "was ever", "is_not" => "was ever not", "contains" => "has ever contained",
               "does_not_contain" => "has at some time not contained", "is_set" => "was ever set",
               "is_not_set" => "was ever not set" }.freeze
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

      # @param count [Count]
      # @return [String]
      def count(count)
        minimum = count.minimum
        maximum = count.maximum
        return "at least #{times(minimum)}" if maximum.nil?
        return "exactly #{times(minimum)}" if minimum == maximum

        minimum.zero? ? "at most #{times(maximum)}" : "between #{minimum} and #{maximum} times"
      end

      # @param window [Window]
      # @return [String]
      def window(window)
        return "at any time" if window.ever?
        return "between #{date(window.from)} and #{date(window.to)}" unless window.last_days

        window.last_days == 1 ? "on the last day" : "in the last #{window.last_days} days"
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
