# frozen_string_literal: true

module Estrel
  module Analyses
    # How a measure of what people do goes, step by step: of several events beside each other, or of one by another, for
    # everybody or told apart. Counts add up over the parts, see {EventCounts}; where values are told apart, those with
    # the most are found out first, see {Leading}. Findings are about complete periods only.
    class Trends < Analysis
      include OfEvents
      include AtTheTime

      # Periods in a picture, and lines, at most.
      MOST_PERIODS = 1_100
      MOST_LINES = 40
      COMBINED = { "per" => ->(one, other) { other.zero? ? nil : one.fdiv(other) }, "plus" => :+.to_proc,
                   "minus" => :-.to_proc }.freeze
      private_constant :COMBINED

      def partial(part, found)
        return values(part) if counting?(found)
        return Counting.new(self, part, leading.range, found.first).to_h if found.size < rounds - 1

        [steps, behind].compact.map { |looked_at| Counting.new(self, part, looked_at, labels(found)).to_h }
      end

      def doing(found) = found.size < rounds - 1 ? "Counting the values" : super

      def settled(round, found)
        return leading.all(round) if leading && found.empty?

        leading && found.one? ? groups.labels(leading.figures(found.first, round)) : super
      end

      def answer(found)
        lines = Lines.new(self, groups.named(labels(found)), found.last)
        Answer.new(finding: Finding.new(self, lines.all).to_s, picture: picture(lines.all), caveats: caveats,
                   tables: Tables.new(self, lines.all).all)
      end

      # @return [Lifecycle::Steps]
      # @raise [Invalid] for more periods than can be looked at
      def steps
        @steps ||= steps_of_range.tap do |found|
          periods = found.size - 1
          next if periods <= MOST_PERIODS

          raise Invalid.at("step", "too many intervals (#{English.counted(periods, found.unit)}); choose " \
                                   "#{found.unit == "day" ? "weeks or months" : "months"}, or a shorter period")
        end
      end

      # @return [Lifecycle::Steps, nil] what lies behind
      def behind = @behind ||= question["behind"] && steps.earlier(question["behind"])

      # @return [Array<Hash{Symbol => Object}>] see {Lifecycle::Steps#periods}; `sound`, whether findings may rest on it
      def periods
        @periods ||= begin
          oldest = workspace.ledger.oldest_day
          steps.periods(workspace.today).map do |period|
            { **period, sound: period[:complete] && (oldest.nil? || period[:from] >= oldest) }
          end
        end
      end

      # @return [EventMeasure]
      def measure
        @measure ||= EventMeasure.new(*question.values_at("measure", "property"), selections, workspace.catalogue)
      end

      # @return [String, nil] "per", "plus" or "minus": the first series by the second
      def combined = question["combined"]

      # @return [Boolean] whether every group has one line, made of two series
      def combined? = !combined.nil?

      # @param counts [Array<EventCounts>] of each series
      # @param index [Integer] of the series; any where two are combined
      # @param code [Integer] see {EventCounts}
      # @return [Numeric, nil] what is measured; nil where there is nothing to tell it of
      def figure(counts, index, code)
        return measure.value(counts[index], code) unless combined?

        one, other = counts.map { |each| measure.value(each, code) }
        one && other && COMBINED.fetch(combined).call(one, other)
      end

      # @param found [Hash] of {Counting#to_h}
      # @param steps [Lifecycle::Steps] over which it was counted
      # @return [Array<EventCounts>] of each series
      def read(found, steps)
        found[:series].map do |counts|
          EventCounts.new({ **counts, active: found[:active] }, steps,
                          grouped: groups.personal? || groups.at_a_time?)
        end
      end

      # @return [Leading, nil] where more than people or events have to be counted to know which values have the most
      def leading
        return if !groups.counted_first? || groups.order || decided_by != "figure"

        @leading ||= Leading.new(self)
      end

      private

      def rounds = leading ? 3 : super

      # What the values with lines of their own have the most of: people, times or the figure itself.
      def decided_by
        most = question["most"] || "figure"
        most == "figure" && !combined? && %w[people times].include?(measure.kind) ? measure.kind : most
      end

      def rests_on
        check
        [*super, steps.key, behind&.key, workspace.ledger.oldest_day]
      end

      def check
        measure
        told_apart
        raise Invalid.at("combined", "choose two events to combine") if combined? && selections.size != 2
        raise NoRules, "no event type counts as activity yet; choose one under Lifecycle → Rules" if needs_rules?
        return if told_lines <= MOST_LINES

        raise Invalid.at("top", "too many lines (#{told_lines}); choose fewer events or values")
      end

      def needs_rules? = measure.needs.include?(:active) && workspace.rules.nil?

      # As many as there can be.
      def told_lines
        lines_each * (combined? ? 1 : selections.size)
      end

      def told_apart
        return split unless question["by_event"]
        raise Invalid.at("by", "you can split by two things at most") if split && split.by == "both"

        @told_apart ||= Audience::EventSplit.new(question["by_event"], selections, workspace.catalogue)
      rescue Audience::Invalid => e
        raise Invalid, (e.errors.map { |error| { **error, place: "by_event" } })
      end

      def of_events = [*(told_apart if question["by_event"])]

      def first_looked_at = [steps, behind].compact.map { |one| one.dates.first + 1 }.min

      def values(part)
        counting = Counting.new(self, part, steps, nil)
        values_in(part, people: decided_by == "people") { |selection| counting.rows(selection) }
      end

      def picture(lines)
        { from: steps.dates.first + 1, to: steps.dates.last, step: steps.unit,
          column: combined == "per" ? "mean" : measure.column, unit: measure.unit, quantity: measure.quantity,
          measure: measure.to_s,
          periods: periods.map { |period| period.slice(:from, :to, :complete) },
          behind: behind && { from: behind.dates.first + 1, to: behind.dates.last }, rows: lines.map(&:to_h) }
      end

      def caveats
        found = told_by("at the time of the event")
        found << "People in several audiences count in each." if audiences.size > 1 && !told_apart
        if !groups.personal? && measure.needs.include?(:people)
          found << "People with events of several values count in each."
        end
        found
      end
    end
  end
end
