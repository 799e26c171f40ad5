# frozen_string_literal: true

module Estrel
  class Lifecycle
    # When activity begins in the data. Until it is old enough, everybody looks as if she had only come, and nobody can
    # have been inactive for long. Frozen.
    class Beginning
      # @return [Date, nil] of the first activity of all; nil where there is none
      attr_reader :date

      # @param days [Enumerable<Integer>] numbers of days with activity, the first among them
      def initialize(days)
        @date = days.min&.then { |day| Calendar.date(day) }
        freeze
      end

      # @param date [Date]
      # @param days [Integer]
      # @return [Boolean] whether activity had begun so many days before a date
      def reached?(date, days) = @date.nil? || date - days >= @date
    end
  end
end
