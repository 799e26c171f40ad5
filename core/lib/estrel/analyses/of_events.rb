# frozen_string_literal: true

module Estrel
  module Analyses
    # What analyses of events have in common: the events asked about, a series each, and the groups they are told apart
    # by, see {EventGroups}. Values of a split are counted in a round of their own, before the most frequent can be told
    # apart.
    module OfEvents
      def more?(found) = found.size < rounds

      def doing(found) = counting?(found) ? "Counting the values" : super

      # Of the values only those with groups of their own go to the parts again.
      def settled(round, found) = counting?(found) ? groups.labels(round) : round

      # @return [Array<Audience::Selection>]
      # @raise [Invalid]
      def selections
        @selections ||= question["series"].each_with_index.map do |json, index|
          Metric.selection(json, workspace.catalogue, "series[#{index}]")
        end
      end

      # @return [Array<String>] what each of these is called
      def names = selections.map { |selection| Audience::Phrases.done(selection, workspace.catalogue) }

      # @return [EventGroups]
      def groups = @groups ||= EventGroups.new(audiences, told_apart, top)

      # @param index [Integer] of the series
      # @param group [Hash] of {EventGroups#named}
      # @return [String] what the line of a series and a group is called
      def line_name(index, group)
        return names[index] if group[:kind] == "all"

        selections.one? ? groups.said(group) : "#{names[index]}, #{groups.said(group)}"
      end

      private

      # How often all parts are gone over: before the last time it is known which groups there are.
      def rounds = groups.counted_first? ? 2 : 1

      # @return [Audience::Split, Audience::EventSplit, nil]
      def told_apart = split

      # @param split [String] how the sentence begins
      # @return [String] by which of their values people are split
      def as_known(split = "Split") = "#{split} by values as of #{English.date(workspace.as_of)}."

      def counting?(found) = groups.counted_first? && found.empty?

      # How many values have lines of their own: as many as asked for, or as there is room for.
      def top = question["top"] || ((self.class::MOST_LINES / series_count) - 2).clamp(1, EventGroups::TOP)

      # How many events have lines of their own.
      def series_count = question.fetch("series", [nil]).size

      # @param what [String] what the picture shows
      # @raise [Invalid] where the picture has no room for as many lines as there may be
      def check_lines(what = "lines")
        lines = lines_each * series_count
        return if lines <= self.class::MOST_LINES

        raise Invalid.at("top", "too many #{what} (#{lines}); choose fewer #{"events or " if series_count > 1}values")
      end

      # How many lines there may be for each event.
      def lines_each
        return [audiences.size, 1].max unless told_apart

        told_apart.order ? told_apart.order.size + 1 : top + 2
      end

      # @return [Array<Array>, nil] see {EventGroups#of}
      def labels(found) = (found[rounds - 2] if groups.counted_first?)

      # @yieldparam selection [Audience::Selection]
      # @yieldreturn [Polars::DataFrame] its events in a part
      # @return [Hash{String, nil => Integer}] see {EventGroups#counts}
      def values_in(part, people:)
        selections.map { |selection| groups.counts(yield(selection), part, people: people) }
                  .reduce { |one, other| Sum.of(one, other) }
      end
    end
  end
end
