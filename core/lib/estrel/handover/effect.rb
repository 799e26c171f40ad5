# frozen_string_literal: true

module Estrel
  module Handover
    # Whether handing over did any good: those handed over against those held out, who were chosen by chance from the
    # same people, over some days after the run. The estimators are those of {Statistics}.
    class Effect
      # What came of one group: how many people, how many of them it came of (or nil), and the mean per person.
      Group = Struct.new(:people, :hits, :mean, :variance, keyword_init: true)
      # The difference worth telling where nothing else is said: of shares, and of means as a part of that of those held
      # out.
      SIZE = 0.02
      PART = 0.1

      # @param evaluator [Audience::Evaluator] as of the date up to which events are looked at
      # @param sent_on [Date] the date of the run; the days after it count
      # @param outcome [Outcome]
      # @param handed_over [Polars::Series] profile ids
      # @param held_out [Polars::Series] profile ids
      def initialize(evaluator, sent_on, outcome, handed_over:, held_out:)
        @evaluator = evaluator
        @sent_on = sent_on
        @outcome = outcome
        @people = [handed_over, held_out]
      end

      # @return [Date] the last day that counts
      def to = @sent_on + @outcome.days

      # @return [Boolean] whether all of the days are known
      def complete? = to <= @evaluator.as_of

      # @param size [Float, nil] the difference the analyst wants to tell: of shares, or of means as a part of that of
      #   those held out
      # @return [Hash] plain JSON
      def to_h(size: nil)
        size ||= @outcome.share? ? SIZE : PART
        { outcome: @outcome.to_s, share: @outcome.share?, from: @sent_on + 1, to: to, complete: complete?,
          groups: groups.map(&:to_h), difference: difference, relative: relative, p_value: p_value,
          needed: needed(size), size: size, verdict: verdict(size) }
      end

      # @return [Array<Group>] those handed over, and those held out
      def groups = @groups ||= @people.map { |ids| @outcome.share? ? share(ids) : mean(ids) }

      private

      def first = Calendar.number(@sent_on) + 1

      def last = Calendar.number([to, @evaluator.as_of].min)

      def share(ids)
        ids = quiet(ids) if @outcome.kind == "back"
        Group.new(people: ids.len, hits: ids.is_in(hits).sum.to_i, mean: nil, variance: nil).tap do |group|
          group.mean = group.people.zero? ? nil : group.hits.fdiv(group.people)
        end
      end

      # Of the lasting question only those who were dormant or churned then.
      def quiet(ids) = ids.filter(ids.is_in(in_states(@sent_on, %w[dormant churned])))

      def hits
        @hits ||= @outcome.kind == "back" ? in_states([to, @evaluator.as_of].min, %w[new active]) : events["profile_id"]
      end

      def in_states(date, names)
        states = @evaluator.states(date)["state"].is_in(names)
        @evaluator.ids.filter(states.fill_null(false))
      end

      def events = @evaluator.events(@outcome.event).filter(Polars.col("day").is_between(first, last))

      # People without any such event count as nothing.
      def mean(ids)
        column = Polars.col(Ledger::Layout.property(@outcome.property))
        sums = events.lazy.group_by("profile_id").agg([column.sum.alias("value")]).collect
        values = ids.alias("profile_id").to_frame.join(sums, on: "profile_id", how: "left")["value"].fill_null(0.0)
        Group.new(people: ids.len, hits: nil, mean: ids.len.zero? ? nil : values.mean,
                  variance: ids.len < 2 ? nil : values.var)
      end

      # Whether there is anything to compare.
      def told? = groups.all? { |group| group.people > (@outcome.share? ? 0 : 1) }

      def counts = groups.flat_map { |group| [group.hits, group.people] }

      def difference
        return unless told?
        return Statistics.difference(*counts) if @outcome.share?

        Statistics.welch(*groups.map(&:to_h)).slice(:estimate, :low, :high)
      end

      def relative
        return unless told?
        return Statistics.ratio(*counts)&.transform_values { |value| value - 1 } if @outcome.share?

        other = groups.last.mean
        other.zero? ? nil : difference.transform_values { |value| value / other }
      end

      def p_value
        return unless told?

        @outcome.share? ? Statistics.p_value(*counts) : Statistics.welch(*groups.map(&:to_h))[:p_value]
      end

      # How many people in all, in the proportion of this run, it takes to tell a difference of a size.
      def needed(size)
        return unless told?

        handed_over, held_out = groups
        times = handed_over.people.fdiv(held_out.people)
        return shares_needed(held_out.mean, size, times) if @outcome.share?

        difference = size * held_out.mean
        return if difference.zero?

        Statistics.people_needed_for_means(held_out.variance, handed_over.variance, difference, times)
      end

      def shares_needed(share, size, times)
        other = share + size
        Statistics.people_needed(share, other, times) unless other >= 1 || share + other <= 0
      end

      def verdict(size)
        return "There is nobody held out to measure against." if groups.last.people.zero?
        return "There are too few people to compare." unless told?

        apart = difference
        return "Cannot tell: #{said}#{more(size)}" if 0.between?(apart[:low], apart[:high])

        "#{apart[:estimate].positive? ? "It did good" : "It did harm"}: #{said}"
      end

      def said
        here, there = groups.map { |group| @outcome.share? ? percent(group.mean) : amount(group.mean) }
        low, high = difference.values_at(:low, :high).map { |value| @outcome.share? ? points(value) : gained(value) }
        what = if @outcome.share? then "#{here} of those handed over #{@outcome}, #{there} of those held out"
               else "the #{@outcome} was #{here} among those handed over, #{there} among those held out"
               end
        still = complete? ? "" : "; the days to #{Audience::Wording.date(to)} are not over"
        "#{what} (difference #{low} to #{high}, 95 % interval)#{still}."
      end

      def more(size)
        found = needed(size)
        return "" if found.nil?

        what = @outcome.share? ? points(size).delete("+") : "#{format("%g", size * 100)} %"
        " To tell a difference of #{what} takes about #{count(found)} people in all, in the same proportion" \
          "#{missing(found - groups.sum(&:people))}."
      end

      def missing(people) = people.positive? ? ", #{count(people)} more than here" : ""

      def count(people) = Audience::Wording.number(people)

      # With the sign as it is printed.
      def signed(text) = text.sub("-", "−")

      def percent(share) = "#{format("%.1f", share * 100)} %"

      def points(value) = signed("#{"+" if value.positive?}#{format("%.1f", value * 100)} points")

      def gained(value) = "#{"+" if value.positive?}#{amount(value)}"

      def amount(value) = signed(format("%.2f", value))
    end
  end
end
