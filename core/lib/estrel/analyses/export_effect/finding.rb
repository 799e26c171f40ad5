# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What came of an export, in words.
      class Finding
        # @param result [Result]
        # @param words [Words]
        # @param plan [Boolean] whether it is about all runs
        # @param better [String, nil] "more" or "less" where it is said which is wanted
        # @param size [Float] the difference that would matter
        # @param needed [Integer, nil] people it takes to tell it
        def initialize(result, words, plan:, better:, size:, needed:)
          @result = result
          @words = words
          @plan = plan
          @better = better
          @size = size
          @needed = needed
        end

        # @return [String]
        def to_s
          return "Nobody is in the holdout to measure against." if result.exposed.runs.empty?
          return not_begun unless result.begun?

          nobody || "#{among}#{verdict}"
        end

        private

        attr_reader :result

        def comparison = result.comparison

        def outcome = result.outcome

        def share? = outcome.share?

        def not_begun
          "Nothing can be said yet: #{@words.not_begun} #{date(result.from)}, after the date looked at."
        end

        def nobody
          return unless result.one_sided?

          held = result.people["held"].sum
          return "There is nobody among #{@words.held}." if held.zero?
          return "There is nobody among #{@words.others}." if held == result.people.height

          empty = [@words.others, @words.held].zip(comparison.groups).select { |_, group| group.people.zero? }
          among = empty.one? ? " of #{empty.first.first}" : ""
          return "Nobody#{among} was dormant or churned, so nobody could come back." if outcome.lapsed?

          "The lifecycle rules are about nobody#{among}."
        end

        # What it is about, where that is not one run.
        def among
          return "" unless @plan

          "Over #{English.counted(result.exposed.runs.size, "run")}, each person from her first on#{waiting}: "
        end

        def waiting
          young = result.young
          " (#{English.number(young)} more, whose days are not over, wait)" if result.complete? && young.positive?
        end

        def verdict
          return "No verdict: #{split}" if result.amiss?
          return early unless result.complete?
          return "Too few people for a verdict, #{Result::ENOUGH} at least: #{figures}." if result.few?
          return "Cannot tell: #{none}" if comparison.difference.nil?
          return "Cannot tell: #{said}#{more}" unless result.clear?

          "#{direction} than in the control group#{wanted}: #{said}"
        end

        def early = "No verdict before the end of #{date(result.first_over)}. Until then: #{figures}."

        def none
          "#{figures}, and of how much it would be there is nothing to go by. Ask how many people had any."
        end

        def higher? = comparison.difference[:estimate].positive?

        def direction = higher? ? "Higher" : "Lower"

        def wanted
          return "" unless @better

          (@better == "more") == higher? ? ", as was wanted" : ", which was not wanted"
        end

        def split
          people = result.people
          held, meant = [people["held"].sum.fdiv(people.height), result.exposed.planned(people)]
                        .map { |share| English.precise(share) }
          "#{held} of the people are in #{@words.held}, #{meant} were meant to be, and that is not chance. " \
            "#{@words.reasons}: #{figures}."
        end

        def said
          ends = comparison.difference.values_at(:low, :high)
          low, high = ends.map { |value| share? ? points(value) : gained(value) }
          "#{figures} (difference #{English.interval(low, high)}, 95% interval).#{cut}#{several}"
        end

        def cut
          return "" unless comparison.cut

          " Each person's sum counts up to #{amount(comparison.cut)}, which one in twenty of those who have any " \
            "exceeds."
        end

        def several
          return "" if result.outcomes.size == 1

          " This allows for #{result.outcomes.size} outcomes being looked at."
        end

        def figures
          here, there = comparison.groups.map { |group| share? ? share(group) : amount(group.mean || 0.0) }
          return "#{here} of #{@words.others} #{outcome}, #{there} of #{@words.held}" if share?

          "the #{outcome} was #{here} among #{@words.others}, #{there} among #{@words.held}"
        end

        def share(group) = English.precise(group.mean || 0.0)

        def more
          return "" unless @needed

          what = share? ? points(@size).delete_prefix("+") : "#{format("%g", @size * 100)}%"
          missing = @needed - comparison.groups.sum(&:people)
          " To tell a difference of #{what} takes about #{English.number(@needed)} people in all, in the same " \
            "proportion#{", #{English.number(missing)} more than here" if missing.positive?} (power 80%, two-sided " \
            "level 5%)."
        end

        def points(value) = "#{English.points(value)} points"

        def gained(value) = "#{"+" if value.positive?}#{amount(value)}"

        # With the sign as it is printed.
        def amount(value) = format("%.2f", value).sub("-", "−")

        def date(number) = English.date(Calendar.date(number))
      end
    end
  end
end
