# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # What is said over the picture: how the number changed, and what stands out of all that was looked at.
      class Finding
        # A smaller share says no more than the number.
        LEAST = 0.001
        private_constant :LEAST

        # @param analysis [Change]
        # @param total [Total]
        # @param reasons [Reasons]
        # @param told [Array<Decomposition>]
        def initialize(analysis, total, reasons, told)
          @analysis = analysis
          @total = total
          @reasons = reasons
          @told = told
        end

        # @return [String]
        def to_s
          return "Nobody #{@analysis.did} in either period." if @total.before.zero? && @total.after.zero?

          "#{changed}. #{reason}"
        end

        private

        def changed
          before, after = [@total.before, @total.after].map { |number| English.number(number) }
          how = @total.change.negative? ? "fell" : "rose"
          how = "did not change significantly" unless @total.clear?
          low, high = @total.interval.map { |end_of| English.change(end_of.round) }
          growth = @total.before.positive? ? @total.change.fdiv(@total.before) : 0
          share = " or #{English.growth(growth)}" if growth.abs >= LEAST
          "#{subject} #{how}: from #{before} in #{period(0)} to #{after} in #{period(1)}, " \
            "#{English.change(@total.change)}#{share} (95% interval #{English.interval(low, high)})"
        end

        def subject
          @analysis.times? ? "How often people #{@analysis.did}" : "The number of people who #{@analysis.did}"
        end

        def period(number)
          days = @analysis.days(number)
          days.one? ? English.date(days.begin) : "#{days.begin.strftime("%-d %b")} to #{English.date(days.end)}"
        end

        def reason
          first = @reasons.first
          return "There is nothing to tell people apart by." unless first
          unless @reasons.clear?(first)
            return "Nothing stands out beyond chance of #{English.counted(@reasons.size, "reason")} looked at."
          end

          first.mix? ? of_mix(first) : of_behaviour(first)
        end

        def of_mix(reason)
          "Most of what stands out is #{reason.said}: it alone makes #{amount(reason)}."
        end

        def of_behaviour(reason)
          more = reason.amount.negative? ? "fewer" : "more"
          low, high = reason.interval.map(&:abs).sort.map { |end_of| English.number(end_of.round) }
          "#{reason.said.sub(/\A./, &:upcase)} stands out: #{English.number(reason.amount.abs.round)} #{more} than " \
            "if it had changed as all others did (95% interval #{English.interval(low, high)})."
        end

        def amount(reason)
          low, high = reason.interval.map { |end_of| English.change(end_of.round) }
          "#{English.change(reason.amount.round)} (95% interval #{English.interval(low, high)})"
        end
      end
    end
  end
end
