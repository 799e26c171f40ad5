# frozen_string_literal: true

module Estrel
  module Analyses
    # How many people go through steps one after the other, and after which of them they stop: each step later than the
    # one before, all within some time from the first, in one visit, or ever. A step is what an audience's *order* means
    # by it, so whoever got to a step, or stopped there, can be said by a condition. A step that may be skipped is a way
    # round between the steps before and after it: it keeps nobody from going on. Counts add up over the parts.
    class Funnel < Analysis
      include OfEvents
      include AtTheTime

      # Periods over time, and groups beside each other, at most.
      MOST_PERIODS = 60
      MOST_LINES = 8
      # Days looked at unless others are asked for.
      DAYS = 90

      def partial(part, found)
        counting = Counting.new(self, part)
        return counting.values if counting?(found)
        return counting.to_h(labels(found)) unless timing?(found)

        Waits.near(counting.placed(labels(found)), found.last)
      end

      def doing(found) = timing?(found) ? "Measuring time between steps" : super

      # Which times have to be known exactly is known once all are counted.
      def settled(round, found)
        return super if counting?(found) || timing?(found)

        { **round, waits: Waits.new(round[:waits], Line::WAIT.values) }
      end

      def carried(found) = timing?(found) ? [*found[0...-1], found.last[:waits].sought] : found

      def answer(found)
        named = groups.named(labels(found))
        lines = named.each_with_index.map { |group, at| Line.new(self, *found.last(2), group, at) }
        Answer.new(finding: Finding.new(self, lines).to_s, picture: picture(lines), caveats: caveats,
                   tables: Tables.new(self, lines).all)
      end

      # @return [Array<Audience::Selection>]
      # @raise [Invalid]
      def selections
        @selections ||= question["steps"].each_with_index.map do |json, index|
          Metric.selection(json, workspace.catalogue, "steps[#{index}]")
        end
      end

      # @return [Integer] how many steps there are
      def size = selections.size

      # @return [Boolean] whether visits are counted rather than people
      def visits? = question["counted"] == "visits"

      # @return [Boolean] whether all steps lie in one visit
      def same_visit? = question["same_visit"] == true

      # @return [Array<Integer>] numbers of the steps that may not be skipped
      def needed = @needed ||= (0...size).reject { |at| question["steps"][at]["optional"] }

      # @return [Array<Integer>] numbers of those that may
      def optional = (0...size).to_a - needed

      # @param at [Integer] number of a step
      # @return [Array<Integer>] the steps that lead there, itself included
      def way(at) = [*needed.take_while { |one| one < at }, at]

      # @param at [Integer] number of a step
      # @return [Integer, nil] number of the next step that may not be skipped
      def after(at) = needed.find { |one| one > at }

      # @param way [Array<Integer>] numbers of steps
      # @param where [Array<Hash>] filters, as JSON, of the first step besides its own
      # @return [Hash] the condition, as JSON, of whoever went through these
      def order(way, where = [])
        window = { "window" => { "from" => from.iso8601, "to" => workspace.as_of.iso8601 } }
        first = { **selections.first.to_h, "where" => [*selections.first.to_h["where"], *where] }
        return { "did" => { **first, "count" => { "at_least" => 1 }, **window } } if way.one?

        steps = way.map { |at| at.zero? ? first : { **selections[at].to_h, **link(at) } }
        { "order" => { "steps" => steps, **window, **question.slice("within").compact } }
      end

      # @return [Date] the first day on which people may begin
      def from
        day("from") || [[workspace.as_of - DAYS + 1, workspace.ledger.oldest_day].compact.max, workspace.as_of].min
      end

      # @return [Lifecycle::Steps, nil] by whose periods people begin, where it is asked how that goes over time
      def steps
        return unless question["over_time"]

        @steps ||= steps_of_range.tap do |found|
          next if found.size - 1 <= MOST_PERIODS

          raise Invalid.at("step", "that would be #{English.counted(found.size - 1, found.unit)}; look at longer steps")
        end
      end

      # @param at [Integer] number of a step
      # @return [String] "bought a pass"
      def words(at) = Audience::Phrases.done(selections[at], workspace.catalogue)

      # @return [String] "within 14 days", "in one visit"; empty where they may take as long as they like
      def limit
        return "in one visit" if same_visit?

        question["within"] ? "within #{English.within(question["within"])}" : ""
      end

      private

      def rounds = super + 1

      def timing?(found) = found.size == rounds - 1

      def labels(found) = (found.first if groups.counted_first?)

      def first_day = from

      def first_looked_at = from

      def rests_on
        check
        [*super, from, steps&.key]
      end

      def check
        raise Invalid.at("from", "the start date is after the as-of date") if from > workspace.as_of
        raise Invalid.at("counted", "counting visits requires all steps in one visit") if visits? && !same_visit?

        question["steps"].each_index { |at| passed_over(at) }
        raise Invalid.at("steps", "the first and last step cannot be optional") unless ([0, size - 1] - needed).empty?

        check_lines("groups")
      end

      # What must not be done between a step and the one before.
      def passed_over(at)
        names = question["steps"][at]["without"] or return
        raise Invalid.at("steps[0].without", "events cannot be excluded before the first step") if at.zero?

        Metric.selection({ "events" => names }, workspace.catalogue, "steps[#{at}].without").events
      end

      def link(at)
        without = passed_over(at)
        { **(without ? { "next" => true, "among" => without } : {}), **(same_visit? ? { "same_visit" => true } : {}) }
      end

      def picture(lines)
        { from: from, to: workspace.as_of, within: question["within"], same_visit: same_visit?,
          counted: visits? ? "visits" : "people", steps: Array.new(size) { |at| words(at) },
          optional: optional, waits: Waits::BARS, periods: steps&.periods(workspace.today), rows: lines.map(&:to_h) }
      end

      def caveats
        found = []
        if question["within"] && !same_visit?
          found << "People who entered less than #{English.within(question["within"])} before " \
                   "#{English.date(workspace.as_of)} may still convert."
        end
        found << "People in several audiences count in each." if audiences.size > 1 && !split
        found += told_by("at the first step")
        found << "People with several values at the first step count in each." unless groups.personal?
        found
      end
    end
  end
end
