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
          return "No one #{@analysis.did} in either period." if @total.before.zero? && @total.after.zero?

          "#{changed}. #{reason}"
        end

        private

        def changed
          before, after = [@total.before, @total.after].map { |number| English.number(number) }
          low, high = @total.interval.map { |end_of| English.change(end_of.round) }
          growth = @total.before.positive? ? @total.change.fdiv(@total.before) : 0
          amount = English.change(@total.change)
          interval = "95% CI #{English.interval(low, high)}"
          change = if !@total.clear? then "no significant change (#{amount}, #{interval})"
                   elsif growth.abs < LEAST then "#{amount} (#{interval})"
                   else "#{English.growth(growth)} (#{amount}, #{interval})"
                   end
          "#{subject}: #{change}, from #{before} (#{period(0)}) to #{after} (#{period(1)})"
        end

        def subject
          @analysis.times? ? "Number of times people #{@analysis.did}" : "Number of people who #{@analysis.did}"
        end

        def period(number)
          days = @analysis.days(number)
          days.one? ? English.date(days.begin) : "#{days.begin.strftime("%-d %b")} to #{English.date(days.end)}"
        end

        def reason
          first = @reasons.first
          return "There is nothing to split by." unless first
          unless @reasons.clear?(first)
            return "No significant driver among #{English.counted(@reasons.size, "reason")} tested."
          end

          first.mix? ? of_mix(first) : of_behaviour(first)
        end

        def of_mix(reason)
          "Main driver: #{reason.said}, #{amount(reason)}."
        end

        def of_behaviour(reason)
          more = reason.amount.negative? ? "fewer" : "more"
          low, high = reason.interval.map(&:abs).sort.map { |end_of| English.number(end_of.round) }
          "Main driver: #{reason.said}, #{English.number(reason.amount.abs.round)} #{more} than " \
            "if it had changed like the rest (95% CI #{English.interval(low, high)})."
        end

        def amount(reason)
          low, high = reason.interval.map { |end_of| English.change(end_of.round) }
          "#{English.change(reason.amount.round)} (95% CI #{English.interval(low, high)})"
        end
      end
    end
  end
end
