# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What was found in all parts, and what can be said of it. There is no verdict before somebody's days are over:
      # whoever looks every day finds a difference sooner or later. Nor is there one where the holdout is not of the
      # size that was planned: then the two were not parted by chance alone.
      class Result
        # So unlikely a split is no chance (R. Kohavi, D. Tang and Y. Xu, Trustworthy Online Controlled Experiments,
        # 2020, chapter 21).
        AMISS = 0.001
        # Fewer people than this carry no verdict.
        ENOUGH = 50
        # Points of a curve, at most so many.
        POINTS = 60
        # Values of a split that are told apart.
        VALUES = 20
        private_constant :AMISS, :POINTS, :VALUES

        # @return [Exposed]
        attr_reader :exposed
        # @return [Array<Outcome>] the one that is asked about, and others
        attr_reader :outcomes
        # @return [Integer] days after that of a run
        attr_reader :days

        # @param exposed [Exposed]
        # @param outcomes [Array<Outcome>]
        # @param found [Hash{Symbol => Object}] `people` and `outcomes`, of all parts
        # @param days [Integer]
        # @param over [Integer] number of the last day that is over
        def initialize(exposed, outcomes, found, days, over)
          @exposed = exposed
          @outcomes = outcomes
          @found = found
          @days = days
          @over = over
        end

        # @return [Outcome]
        def outcome = outcomes.first

        # Everybody once, as of her first run.
        def people = @people ||= @found[:people].filter(Polars.col("first")).sort("profile_id")

        # @return [Polars::DataFrame] `held` of each who received a message in the days; of standing holdouts alone
        def reached = @found[:reached]

        # Those whose days are over.
        def mature = @mature ||= over(people)

        # @return [Integer] people whose days are not over
        def young = people.height - mature.height

        # @return [Boolean] whether there is anybody to give a verdict on
        def complete? = mature.height.positive?

        # @return [Boolean] whether something was exported by the date looked at
        def begun? = exposed.days.any? && exposed.days.min <= @over

        # @return [Integer, nil] number of the first day of the first run, and of the last day that counts of the first
        #   or of the last; nil without a run
        def from = exposed.days.min

        def first_over = exposed.days.min + days

        def to = exposed.days.any? ? exposed.days.max + days : nil

        # The comparison that the verdict rests on; until there can be one, of what is known so far.
        #
        # @return [Comparison]
        def comparison = @comparison ||= of(outcome, complete? ? mature : people)

        # @return [Boolean] whether nobody is left of one group
        def one_sided? = comparison.groups.any? { |group| group.people.zero? }

        # @return [Boolean]
        def few? = comparison.groups.sum(&:people) < ENOUGH

        # @return [Boolean] whether the split departs from what was planned by more than chance
        def amiss?
          departure = exposed.departure(people)
          !departure.nil? && Statistics::Normal.two_sided(departure) < AMISS
        end

        # @return [Boolean] whether there is a verdict
        def over? = complete? && !few? && !amiss? && !comparison.difference.nil?

        # Every outcome with its comparison, and whether it is beyond chance among all of them.
        #
        # @return [Array<Array(Outcome, Comparison, Boolean)>]
        def each_outcome
          @each_outcome ||= begin
            all = outcomes.map { |one| [one, one.equal?(outcome) ? comparison : of(one, mature)] }
            told = over? ? all.select { |_, one| one.p_value } : []
            clear = Statistics::Holm.beyond_chance(told) { |_, one| one.p_value }
            all.map { |pair| [*pair, clear.include?(pair)] }
          end
        end

        # @return [Boolean] whether the difference is beyond chance, among all outcomes that are asked about
        def clear?
          return each_outcome.first.last if outcomes.size > 1

          !0.between?(comparison.difference[:low], comparison.difference[:high])
        end

        # Each run by itself, of those in it whose days are over.
        #
        # @return [Array<Array(Stored::Run, Integer, Comparison)>] with the number of its day
        def each_run
          exposed.runs.each_with_index.map do |run, place|
            own = @found[:people].filter(Polars.col("run") == place)
            [run, exposed.days[place], of(outcome, own)]
          end
        end

        # @return [Boolean] whether the days of a run are over
        def over_on?(day) = day + days <= @over

        # The groups within which the two are compared, by a column.
        #
        # @param column [String] of the people
        # @return [Array<Array(String, Comparison)>] those with the most people first; nil for no value
        def within(column)
          counts = outcome.about(mature)[column].value_counts(sort: true).rows.first(VALUES)
          counts.map do |value, _|
            own = mature.filter(value.nil? ? Polars.col(column).is_null : Polars.col(column) == value)
            [value, of(outcome, own)]
          end
        end

        # @param places [Array<Integer>] of runs
        # @return [Comparison] of those whose first run is one of these
        def of_runs(places) = of(outcome, mature.filter(Polars.col("run").is_in(places)))

        # @return [Array<Hash>] see {Comparison#curve}
        def curve
          @curve ||= course
        end

        private

        def course
          who = complete? ? mature : people
          last = [days, @over - (who["day"].max || @over)].min
          return [] if last.negative? || comparison.groups.sum(&:people).zero?

          step = (last / POINTS.to_f).ceil.clamp(1, nil)
          comparison.curve([*(0..last).step(step), last].uniq)
        end

        def over(rows) = rows.filter(Polars.col("day") + days <= @over)

        def of(one, rows)
          found = @found[:outcomes][outcomes.index(one)]
          Comparison.new(one.about(rows), *found.values_at(:after, :before), one)
        end
      end
    end
  end
end
