# frozen_string_literal: true

module Estrel
  module Analyses
    # How long and how often people visit: how many visits, by how many people, how long they take, at what time of the
    # week they begin and how many each person pays, step by step and over the whole range; for everybody or told apart;
    # and how much time people spend on each day since they were first seen. A visit belongs to the day on which it
    # begins. What is counted of visits adds up over the parts.
    class Visits < Analysis
      include OfEvents
      include AtTheTime

      # Periods in a picture, and lines, at most.
      MOST_PERIODS = 1_100
      MOST_LINES = 12
      # Where the bars of lengths begin, in seconds, by the unit that these are told in; shorter ones have the first.
      EDGES = { "seconds" => [10, 30, 60, 120, 300, 600], "minutes" => [60, 120, 300, 600, 1_200, 1_800, 3_600],
                "hours" => [900, 1_800, 3_600, 7_200, 14_400] }.freeze
      SECONDS = { "seconds" => 1, "minutes" => 60, "hours" => 3_600 }.freeze
      # Days since the first that time spent is told of.
      AGES = 30
      private_constant :MOST_PERIODS, :EDGES

      def partial(part, found)
        counting = Counting.new(self, part)
        counting?(found) ? counting.values : counting.to_h(labels(found))
      end

      def answer(found)
        named = groups.named(labels(found))
        lines = named.each_with_index.map { |group, place| Line.new(self, found.last, group, place) }
        cohorts = Cohorts.new(self, found.last)
        Answer.new(finding: Finding.new(self, lines).to_s, picture: picture(lines, cohorts), caveats: caveats,
                   tables: Tables.new(self, lines, cohorts).all)
      end

      # @return [Lifecycle::Steps]
      # @raise [Invalid] for more periods than can be looked at
      def steps
        @steps ||= steps_of_range.tap do |found|
          periods = found.size - 1
          next if periods <= MOST_PERIODS

          raise Invalid.at("step", "too many intervals (#{English.counted(periods, found.unit)}); choose a longer " \
                                   "one, or a shorter period")
        end
      end

      # @return [Array<Hash{Symbol => Object}>] see {Lifecycle::Steps#periods}
      def periods = @periods ||= steps.periods(workspace.today)

      # @return [Date] the first day
      def from = steps.dates.first + 1

      # @return [Date] the last day
      def to = steps.dates.last

      # @return [#of] into which groups visits are told apart, see {EventGroups}
      def groups
        @groups ||= if question["newness"] then Newness.new
                    elsif question["by_doing"] then Doing.new(doing_selection, workspace.catalogue)
                    else super
                    end
      end

      # @return [Audience::Selection] of any event
      def anything = @anything ||= Audience::Selection.new(nil, Audience::FilterGroup.new("all", []))

      # @return [Audience::EventSplit, nil] by which visits are told apart by what began them
      # @raise [Invalid]
      def first_property
        return unless question["by_first"]

        @first_property ||= Audience::EventSplit.new(question["by_first"], [anything], workspace.catalogue)
      rescue Audience::Invalid => e
        raise Invalid, (e.errors.map { |error| { **error, place: "by_first" } })
      end

      # @return [Boolean] whether visits are told apart by what was so when they began
      def at_the_beginning? = !question["newness"] && !question["by_doing"] && !moving.nil?

      # @return [String] by what the values with lines of their own are the greatest: visits, people, time or a sum
      def order = question["order"] || "visits"

      # @return [Metric, nil] of which the sum decides that: of all that people did in these days, or of what they did
      #   in the visits where these are told apart by their beginning
      # @raise [Invalid]
      def summed
        return unless order == "sum"

        json = { **(question["order_by"] || {}), "measure" => "sum" }
        @summed ||= Metric.parse(json, workspace.catalogue, "order_by")
      end

      # @return [String] in which lengths are told
      def unit = question["unit"] || "minutes"

      # @return [Array<Integer>] seconds
      def edges = question["edges"] || EDGES.fetch(unit)

      # @return [Array<Range<Integer>>] the seconds of each bar of lengths, but for single events; endless the last
      def lengths = @lengths ||= [0, *edges].each_cons(2).map { |from, after| from...after } << (edges.last..)

      # @return [Array<Range<Integer>>] the numbers of visits of each bar
      def often
        edges = Frequency::EDGES
        edges.each_cons(2).map { |from, after| from..(after - 1) } << (edges.last..)
      end

      # @param range [Range<Integer>] of {#lengths}
      # @return [String] "under 1 min", "5–10 min", "1 h or more"
      def said(range)
        factor = SECONDS.fetch(unit)
        word = { "seconds" => "s", "minutes" => "min", "hours" => "h" }.fetch(unit)
        first, after = [range.begin, range.end].map do |second|
          second && English.quantity(second.fdiv(factor), "number", nil)
        end
        return "#{first} #{word} or more" if after.nil?

        range.begin.zero? ? "under #{after} #{word}" : "#{first}–#{after} #{word}"
      end

      private

      def rests_on
        check
        [*super, steps.key]
      end

      def check
        told = %w[by by_first by_doing].count { |name| question[name] } + (question["newness"] ? 1 : 0)
        raise Invalid.at("by", "choose one split only") if told > 1
        unless edges.each_cons(2).all? { |one, other| one < other }
          raise Invalid.at("edges", "boundaries must be in ascending order")
        end

        summed

        check_lines
      end

      def told_apart = first_property || split

      def of_events = [*first_property]

      def first_looked_at = from

      def doing_selection = Metric.selection(question["by_doing"], workspace.catalogue, "by_doing")

      def picture(lines, cohorts)
        { from: from, to: to, step: steps.unit, unit: unit, periods: periods, edges: edges,
          lengths: ["one event", *lengths.map { |range| said(range) }],
          often: often.map { |range| Frequency.said(range) }, rows: lines.map(&:to_h), cohorts: cohorts.to_a }
      end

      def caveats
        found = ["A visit ends after #{English.duration(workspace.ledger.visit_gap.fdiv(Calendar::MICROS))} without " \
                 "an event. Single-event visits have no length."]
        found << "People in several audiences count in each." if audiences.size > 1 && !split
        found += told_by("at the start of the visit")
        found << "People with visits of several values count in each." unless groups.personal?
        found
      end
    end
  end
end
