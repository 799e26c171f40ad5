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
          return "No holdout, so the effect cannot be measured." if result.exposed.runs.empty?
          return not_begun unless result.begun?

          nobody || "#{among}#{verdict}"
        end

        private

        attr_reader :result

        def comparison = result.comparison

        def outcome = result.outcome

        def share? = outcome.share?

        def not_begun
          "No result yet: #{@words.not_begun} #{date(result.from)}, after the as-of date."
        end

        def nobody
          return unless result.one_sided?

          held = result.people["held"].sum
          return "There are no people in #{@words.held}." if held.zero?
          return "There are no #{@words.others}." if held == result.people.height

          empty = ["among #{@words.others}", "in #{@words.held}"].zip(comparison.groups)
                                                                 .select { |_, group| group.people.zero? }
          among = empty.one? ? " #{empty.first.first}" : ""
          return "No one#{among} was dormant or churned, so no one could be reactivated." if outcome.lapsed?

          "The lifecycle rules cover no one#{among}."
        end

        # What it is about, where that is not one run.
        def among
          return "" unless @plan

          "#{English.counted(result.exposed.runs.size, "run")}, each person from their first run on#{waiting}: "
        end

        def waiting
          young = result.young
          " (#{English.number(young)} more are still being measured)" if result.complete? && young.positive?
        end

        def verdict
          return "No verdict: #{split}" if result.amiss?
          return early unless result.complete?
          return "Not enough people for a verdict (minimum #{Result::ENOUGH}): #{figures}." if result.few?
          return "Inconclusive: #{none}" if comparison.difference.nil?
          return "Inconclusive: #{said}#{more}" unless result.clear?

          "Significantly #{higher? ? "higher" : "lower"} than the control group#{wanted}: #{said}"
        end

        def early = "Preliminary until the end of #{date(result.first_over)}: #{figures}."

        def none
          "#{figures}; too few values for a CI. Measure the share of people instead."
        end

        def higher? = comparison.difference[:estimate].positive?

        def wanted
          return "" unless @better

          (@better == "more") == higher? ? ", as intended" : ", not as intended"
        end

        def split
          people = result.people
          held, meant = [people["held"].sum.fdiv(people.height), result.exposed.planned(people)]
                        .map { |share| English.precise(share) }
          "sample ratio mismatch (#{held} in #{@words.held}, #{meant} planned). #{@words.reasons}. " \
            "#{English.capitalized(figures)}."
        end

        def said
          ends = comparison.difference.values_at(:low, :high)
          low, high = ends.map { |value| share? ? points(value) : gained(value) }
          "#{figures} (95% CI of the difference #{English.interval(low, high)}).#{cut}#{several}"
        end

        def cut
          return "" unless comparison.cut

          " Sums are capped at #{amount(comparison.cut)} per person (95th percentile)."
        end

        def several
          return "" if result.outcomes.size == 1

          " Corrected for #{result.outcomes.size} outcomes."
        end

        def figures
          here, there = comparison.groups.map { |group| share? ? share(group) : amount(group.mean || 0.0) }
          return "#{here} of #{@words.others} vs #{there} of #{@words.held} #{outcome}" if share?

          "#{outcome} #{here} among #{@words.others} vs #{there} in #{@words.held}"
        end

        def share(group) = English.precise(group.mean || 0.0)

        def more
          return "" unless @needed

          what = share? ? points(@size).delete_prefix("+") : "#{format("%g", @size * 100)}% of the control mean"
          missing = @needed - comparison.groups.sum(&:people)
          " Detecting #{what} takes about #{English.number(@needed)} people at the same split" \
            "#{", #{English.number(missing)} more than here" if missing.positive?} (80% power, 5% significance)."
        end

        def points(value) = "#{English.points(value)} pp"

        def gained(value) = "#{"+" if value.positive?}#{amount(value)}"

        # With the sign as it is printed.
        def amount(value) = format("%.2f", value).sub("-", "−")

        def date(number) = English.date(Calendar.date(number))
      end
    end
  end
end
