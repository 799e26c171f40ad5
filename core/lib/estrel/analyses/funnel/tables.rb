# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # The steps one by one, and how it goes over time.
      class Tables
        # @param analysis [Funnel]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [Array<Table>]
        def all = [steps, waits, *(over_time if @analysis.steps)]

        private

        # A visit is not a person.
        def kind = @analysis.visits? ? "count" : "people"

        def steps
          columns = @lines.each_with_index.flat_map do |line, index|
            who = @lines.one? ? "" : "#{line.name}: "
            [["people_#{index}", "#{who}Reached", kind, nil, nil, line.name],
             ["share_#{index}", "% of first step", "share", nil, nil, line.name],
             ["low_#{index}", "95% CI from", "share"], ["high_#{index}", "to", "share"],
             ["previous_#{index}", "% of previous step", "share", nil, nil, line.name],
             ["lost_#{index}", "Dropped off", kind, nil, nil, line.name],
             *([["on_#{index}", "Continued", kind, nil, nil, line.name]] if @analysis.optional.any?),
             ["median_#{index}", "Median time from previous step", "duration", nil, nil, line.name],
             ["lower_#{index}", "25th percentile", "duration"],
             ["upper_#{index}", "75th percentile", "duration"]]
          end
          Table.new("steps", "By step", [%w[step Step text], *columns], Array.new(@analysis.size) { |at| row(at) })
        end

        def row(at)
          values = @lines.flat_map do |line|
            step = line.steps[at]
            [*step.to_h.values_at(:people, :share, :low, :high, :of_previous, :lost),
             *([step.went_on] if @analysis.optional.any?),
             *(step.wait || {}).values_at(:median, :lower, :upper)]
          end
          cells = @lines.each_with_index.flat_map { |line, index| people(line, index, at) }
          Table.row(["#{@analysis.words(at)}#{" (may be skipped)" if skipped?(at)}", *values], cells: cells.to_h)
        end

        def skipped?(at) = @analysis.optional.include?(at)

        def people(line, index, at)
          opened = { "people_#{index}" => line.got_to(at) }
          if skipped?(at) then opened["on_#{index}"] = line.went_on(at)
          elsif @analysis.after(at) then opened["lost_#{index}"] = line.stopped(at)
          end
          opened.to_a
        end

        # Times are those of one chain of each person, see {Counting}.
        def waits
          links = @analysis.needed.drop(1)
          columns = @lines.each_with_index.flat_map do |line, index|
            links.map do |at|
              name = [(line.name unless @lines.one?), @analysis.words(at)].compact.join(": ")
              ["wait_#{at}_#{index}", name, "count", nil, nil, line.name]
            end
          end
          rows = Array.new(Waits::BARS.size + 1) do |bar|
            counts = @lines.flat_map { |line| links.map { |at| line.steps[at].spread&.fetch(bar) || 0 } }
            Table.row([waiting(bar), *counts])
          end
          Table.new("waits", "Time from previous step", [%w[wait Time text], *columns], rows)
        end

        def waiting(bar)
          low, high = [bar.zero? ? nil : Waits::BARS[bar - 1], Waits::BARS[bar]].map { |edge| edge && length(edge) }
          return "less than #{high}" unless low

          high ? "#{low} to #{high}" : "#{low} or longer"
        end

        # A day is said as one, unlike elsewhere.
        def length(seconds) = seconds == 86_400 ? "1 day" : English.duration(seconds)

        def over_time
          columns = @lines.each_with_index.flat_map do |line, index|
            who = @lines.one? ? "" : "#{line.name}: "
            [["began_#{index}", "#{who}Began", "count", nil, nil, line.name],
             ["end_#{index}", "Completed", "share", nil, nil, line.name]]
          end
          rows = @analysis.steps.periods(@analysis.workspace.today).each_with_index.map do |period, at|
            Table.row([period[:from], *@lines.flat_map { |line| ended(line.to_h[:over][at]) }])
          end
          Table.new("over", "By start date", [%w[period From date], *columns], rows)
        end

        def ended(counts) = [counts.first, counts.first.positive? ? counts.last.fdiv(counts.first) : nil]
      end
    end
  end
end
