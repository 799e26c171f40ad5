# frozen_string_literal: true

module Estrel
  module Audience
    # The stretch of time a clause looks at: the last N days, between two dates, or ever. Frozen.
    #
    # A window never reaches past the as-of date.
    class Window
      # @return [Integer, nil] N of "in the last N days"
      attr_reader :last_days
      # @return [Date, nil]
      attr_reader :from
      # @return [Date, nil] included
      attr_reader :to

      def initialize(last_days: nil, from: nil, to: nil)
        @last_days = last_days
        @from = from
        @to = to
        freeze
      end

      # @param json [Hash, nil] as in the definition; nil means ever
      # @return [Window]
      def self.from_h(json)
        json ||= {}
        new(last_days: json["last_days"], from: json["from"] && Date.iso8601(json["from"]),
            to: json["to"] && Date.iso8601(json["to"]))
      end

      # @return [Boolean]
      def ever? = last_days.nil? && from.nil?

      # The day numbers of the window as of a date, both included. For "ever" the first is nil.
      #
      # @param as_of [Date]
      # @return [Array(Integer, Integer)]
      def days(as_of)
        last = Calendar.number(to && to < as_of ? to : as_of)
        return [Calendar.number(as_of) - last_days + 1, last] if last_days

        [from && Calendar.number(from), last]
      end

      # @return [Hash] plain JSON
      def to_h
        return { "ever" => true } if ever?

        last_days ? { "last_days" => last_days } : { "from" => from.iso8601, "to" => to.iso8601 }
      end
    end
  end
end
