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

          raise Invalid.at("step", "too many cohorts (#{English.counted(found.size - 1, "cohort")}); choose " \
                                   "#{found.unit == "day" ? "weeks or months" : "months"}, or a shorter period")
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
        window = first? ? Audience::Window.new : EventCounts.window(steps)
        rows = start.rows(part, window)
        rows = rows.with_columns([(steps.index(Polars.col("day")) - 1).cast(Polars::Int64).alias("cohort")])
        rows = first? ? first_ever(rows) : first_of_each(rows)
        rows.with_row_index(name: "start").select(STARTS)
      end

      # @param starts [Polars::DataFrame] of {#starts_in}
      # @param part [Audience::Evaluator]
      # @param labels [Array<Array>, nil] see {EventGroups#of}
      # @return [Array<Polars::DataFrame>] the same by group, of which somebody begins in one only once in a cohort
      def in_groups(starts, part, labels)
        found = groups.of(starts, part, labels)
        return found if first? || groups.personal?

        found.map { |rows| rows.unique(subset: %w[profile_id cohort group], maintain_order: true) }
      end

      # @param where [Array<Hash>] filters, as JSON, of what some begin with
      # @return [Hash] as JSON, what they begin with; whoever begins once begins with the first, whatever it is
      def start_of(where) = first? ? start.to_h : { **start.to_h, "where" => [*start.to_h["where"], *where] }

      # @param window [Hash] as JSON
      # @param where [Array<Hash>] filters, as JSON, that hold for the start
      # @return [Hash] the condition, as JSON, of whoever began in it
      def began_in(window, where)
        return { "did" => { **start_of(where), "count" => { "at_least" => 1 }, "window" => window } } unless first?

        { "first" => { **start.to_h, "window" => window, **(where.empty? ? {} : { "then" => where }) } }
      end

      private

      def first_ever(rows)
        profile = Polars.col("profile_id")
        rows.filter(profile.ne_missing(profile.shift(1)) & inside)
      end

      # Of each person and cohort; of each group too, see {#in_groups}, where one person may be in several.
      def first_of_each(rows)
        return rows.filter(inside) unless groups.personal?

        profile, cohort = %w[profile_id cohort].map { |name| Polars.col(name) }
        again = (profile == profile.shift(1)) & (cohort == cohort.shift(1))
        rows.filter(again.fill_null(false).is_not & inside)
      end

      def inside = Polars.col("day").is_between(steps.days.first + 1, steps.days.last)

      def first_looked_at = steps.dates.first + 1

      def by_start(found)
        return found unless first? && found.is_a?(Audience::OwnSplit) && found.seasons

        @by_start ||= found.begun(start, workspace.catalogue)
      end

      # Who had begun before the data does looks as if the first time were now.
      def data_begins
        oldest = workspace.ledger.oldest_day
        return unless first? && oldest && periods.first[:from] <= oldest + 30

        "Data starts on #{English.date(oldest)}: people who did it earlier appear to start then."
      end
    end
  end
end
