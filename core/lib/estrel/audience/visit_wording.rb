# frozen_string_literal: true

module Estrel
  module Audience
    # The English of {Condition::Visited}: how many visits, and of which kind.
    module VisitWording
      module_function

      # @param count [Count]
      # @return [String] "at least 3 visits"
      def number(count)
        least = count.minimum
        most = count.maximum
        return least == 1 ? "a visit" : "at least #{English.counted(least, "visit")}" if most.nil?
        return "exactly #{English.counted(least, "visit")}" if least == most

        least.zero? ? "at most #{English.counted(most, "visit")}" : "between #{least} and #{most} visits"
      end

      # @param ranges [Hash{String => Hash{String => Integer}}] see {Condition::Visited#ranges}
      # @return [String] "of at least 10 min, with at most 3 events"
      def ranges(ranges)
        [length(ranges["length"]), events(ranges["events"]), place(ranges["number"])].compact.join(", ")
      end

      def length(ends)
        least, below = ends&.values_at("at_least", "below")
        least = nil if least&.zero? && below
        told = { "at least" => least, "less than" => below }.compact
        "of #{told.map { |word, seconds| "#{word} #{English.duration(seconds)}" }.join(" and ")}" if told.any?
      end
      private_class_method :length

      def events(ends)
        least, most = ends&.values_at("at_least", "at_most")
        return unless least || most

        least == most ? "with #{English.counted(least, "event")}" : "with #{between(least, most)} events"
      end
      private_class_method :events

      def place(ends)
        least, most = ends&.values_at("at_least", "at_most")
        return unless least || most
        return "the #{English.ordinal(most)} of their visits" if most == (least || 1)
        return "one of their first #{most} visits" if (least || 1) == 1
        return "after their first #{English.counted(least - 1, "visit").delete_prefix("1 ")}" if most.nil?

        "from the #{English.ordinal(least)} to the #{English.ordinal(most)} of their visits"
      end
      private_class_method :place

      def between(least, most)
        return "at least #{least}" if most.nil?

        least ? "#{least} to #{most}" : "at most #{most}"
      end
      private_class_method :between
    end
  end
end
