# frozen_string_literal: true

module Estrel
  module Analyses
    # What analyses of cohorts have in common: people by the step in which they began with something. A *start* is a
    # person's first ever, or the first in every step.
    module Cohorted
      # Cohorts, at most.
      MOST_COHORTS = 130
      # What is known of every start: its number, the person, when, and in which cohort.
      STARTS = %w[start profile_id occurred_at cohort].freeze

      # Seasons are those in which people began.
      #
      # @return [Audience::Split, nil]
      def split = by_start(super)

      # @return [Array<Audience::Selection>] what people begin with, alone
      def selections = [start]

      # @return [Audience::Selection]
      def start = @start ||= Metric.selection(question["start"], workspace.catalogue, "start")

      # @return [Boolean] whether only the first start ever counts, rather than the first of every step
      def first? = question["starts"] != "each"

      # @return [Lifecycle::Steps] whose periods the cohorts begin in
      # @raise [Invalid]
      def steps
        @steps ||= steps_of_range.tap do |found|
          next if found.size - 1 <= MOST_COHORTS

          raise Invalid.at("step", "that would be #{English.counted(found.size - 1, "cohort")}; look at " \
                                   "#{found.unit == "day" ? "weeks or months" : "months"}, or at fewer days")
        end
      end

      # @return [Integer] how many there are
      def cohorts = steps.size - 1

      # @return [Array<Hash{Symbol => Object}>] of each cohort `from`, `to`, `complete`
      def periods = @periods ||= steps.periods(workspace.today)

      # @param cohort [Integer]
      # @return [String] "3 Mar 2026", "2 Mar to 8 Mar 2026", "March 2026"
      def cohort_said(cohort)
        from, to = periods[cohort].values_at(:from, :to)
        case steps.unit
        when "day" then English.date(from)
        when "month" then from.strftime("%B %Y")
        else "#{from.strftime("%-d %b")} to #{English.date(to)}"
        end
      end

      # @return [String] "bought a pass"
      def start_words = words(start, "start")

      # @param selection [Audience::Selection]
      # @param place [String] where it stands in the question
      # @return [String] what people did
      def words(selection, place)
        phrases = Audience::Phrases.new(workspace.catalogue)
        phrases.selected(selection, place).map { |part| part[:text] }.join(" ")
      end

      # @param part [Audience::Evaluator]
      # @return [Polars::DataFrame] its starts in order, see {STARTS}
      def starts_in(part)
        profile, cohort = %w[profile_id cohort].map { |name| Polars.col(name) }
        rows = start.rows(part, first? ? Audience::Window.new : EventCounts.window(steps))
        rows = rows.with_columns([(steps.index(Polars.col("day")) - 1).cast(Polars::Int64).alias("cohort")])
        again = profile == profile.shift(1)
        again &= cohort == cohort.shift(1) unless first?
        inside = Polars.col("day").is_between(steps.days.first + 1, steps.days.last)
        rows.filter(again.fill_null(false).is_not & inside).with_row_index(name: "start").select(STARTS)
      end

      private

      def by_start(found)
        return found unless first? && found.is_a?(Audience::OwnSplit) && found.seasons

        @by_start ||= found.begun(start, workspace.catalogue)
      end

      # Who had begun before the data does looks as if the first time were now.
      def data_begins
        oldest = workspace.ledger.oldest_day
        return unless first? && oldest && periods.first[:from] <= oldest + 30

        "The data begins on #{English.date(oldest)}: those who had done it before look as if they had begun then."
      end
    end
  end
end
