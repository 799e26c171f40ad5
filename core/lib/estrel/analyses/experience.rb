# frozen_string_literal: true

module Estrel
  module Analyses
    # What people do as they get to know us: in their 1st, 2nd, 5th visit, on the n-th day or week since they were first
    # seen, after so much time spent, or at the level they have reached of a number. Whoever has not got so far is left
    # out of what is told of it. Counts add up over the parts.
    class Experience < Analysis
      include OfEvents

      # Where the places begin unless something else is asked; times spent are in minutes.
      EDGES = { "visit" => [1, 2, 3, 4, 6, 11, 21, 51], "day" => [0, 1, 2, 3, 7, 14, 30, 60, 90],
                "week" => [0, 1, 2, 4, 8, 13, 26, 52], "time" => [0, 10, 30, 60, 120, 300, 600, 1_200],
                "level" => [0, 1, 2, 5, 10, 20, 50, 100] }.freeze
      # Lines beside each other, at most.
      MOST_LINES = 12
      private_constant :EDGES

      def partial(part, found)
        counting = Counting.new(self, part)
        return counting.to_h(labels(found)) unless counting?(found)

        values_in(part, people: true) { |selection| counting.placed(selection) }
      end

      def answer(found)
        lines = lines(groups.named(labels(found)), found.last)
        Answer.new(finding: Finding.new(self, lines).to_s, picture: picture(lines), caveats: caveats,
                   tables: Tables.new(self, lines).all)
      end

      # @return [String] of {EDGES}: along what people get on
      def along = question["along"] || "visit"

      # @return [Array<Integer>] where each place begins
      def edges = question["edges"] || EDGES.fetch(along)

      # @return [Array<Range<Integer>>] the numbers of each place; endless the last
      def places = edges.each_cons(2).map { |from, after| from..(after - 1) } << (edges.last..)

      # @return [Boolean] whether there is something that rates can be of: visits, days or weeks
      def rated? = %w[visit day week].include?(along)

      # @return [Date, nil] from which day on people must have been first seen to be looked at
      def from = day("from")

      # @return [Boolean] whether places are days or weeks, which pass whether anything is done or not
      def timed? = %w[day week].include?(along)

      # @return [Hash, nil] `event` and `property` of which the highest value so far is the level
      def level
        return unless along == "level"

        @level ||= checked_level(question["level"] || {})
      end

      # @param range [Range<Integer>] of {#places}
      # @return [String] "visit 3", "days 7–13", "week 52 or later", "10–29 min", "50 or more"
      def said(range)
        first = English.number(range.begin)
        last = range.end && English.number(range.end)
        one = last == first
        span = last ? [first, *(last unless one)].join("–") : "#{first} or more"
        return span if along == "level"

        if along == "time"
          "#{span} min"
        else
          "#{along}#{"s" unless one || last.nil?} #{last ? span : "#{first} or later"}"
        end
      end

      private

      # The same events may be done by anybody, however long ago, so all of them are read.
      def rests_on
        check
        [*super, along, edges, level, from]
      end

      def check
        unless edges.each_cons(2).all? { |one, other| one < other }
          raise Invalid.at("edges", "boundaries must be in ascending order")
        end
        raise Invalid.at("edges", "visits are counted from 1") if along == "visit" && edges.first < 1
        raise Invalid.at("from", "the start date is after the as-of date") if from && from > workspace.as_of

        level
        check_lines
      end

      def checked_level(asked)
        type = workspace.catalogue.event_types[asked["event"]]
        field = type&.properties&.[](asked["property"])
        return asked if field&.type == "number"

        raise Invalid.at("level", "choose a numeric property for the level")
      end

      def lines(named, found)
        selections.each_index.flat_map do |index|
          named.each_with_index.map { |group, place| Line.new(self, found, index, group, place) }
        end
      end

      def picture(lines)
        told = places.map { |range| { from: range.begin, to: range.end, said: said(range) } }
        { along: along, places: told, rows: lines.map(&:to_h) }
      end

      def caveats
        found = ["Each stage covers only people who reached it. Ranges are 95% CIs."]
        if %w[day week].include?(along)
          found << "Stages of several days or weeks cover only people for whom the whole stage has passed."
        end
        found << "People in several audiences count in each." if audiences.size > 1 && !split
        found << as_known if split&.changes?
        found
      end
    end
  end
end
