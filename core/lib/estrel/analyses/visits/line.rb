# frozen_string_literal: true

module Estrel
  module Analyses
    class Visits
      # One group: its figures period by period and over the whole range, and how they spread.
      class Line
        # What is told of visits: the words for it, and what the figures are, of {Table::KINDS}. Times are in seconds.
        FIGURES = {
          visits: %w[Visits count], people: %w[People people], per_person: ["Visits per person", "mean"],
          mean: ["Mean length", "duration"], median: ["Median length", "duration"],
          p90: ["90th percentile", "duration"], single: ["Single-event", "share"],
          days: ["Days per person", "mean"], per_day: ["Time per day", "duration"]
        }.freeze
        SECOND = Calendar::MICROS.to_f
        private_constant :SECOND

        # @return [Hash{Symbol => Object}] see {EventGroups#named}
        attr_reader :group

        # @param analysis [Visits]
        # @param found [Hash] of {Counting#to_h}, of all parts
        # @param group [Hash]
        # @param place [Integer] of the group
        def initialize(analysis, found, group, place)
          @analysis = analysis
          @found = found
          @group = group
          @place = place
          @counts = EventCounts.new(found, analysis.steps)
        end

        # @return [String]
        def name = group[:kind] == "all" ? "all people" : @analysis.groups.said(group)

        # @param name [Symbol] of {FIGURES}
        # @return [Numeric, nil] of the whole range
        def total(name) = figure(name, @counts.whole(@place))

        # @param name [Symbol] of {FIGURES}
        # @return [Array<Numeric, nil>] period by period
        def values(name) = @analysis.periods.each_index.map { |at| figure(name, first + at) }

        # @return [Array<Integer>] visits of one event, then by each of {Visits#lengths}
        def lengths
          @lengths ||= begin
            single = over_range(:single)
            counts = @analysis.lengths.map { |range| seconds.sum { |second, count| range.cover?(second) ? count : 0 } }
            [single, counts.first - single, *counts.drop(1)]
          end
        end

        # @return [Array<Integer>] people by how many visits each paid, see {Visits#often}
        def often
          @often ||= begin
            each = @found[:often].filter_map do |code, people|
              [code % Counting::MOST, people] if code.div(Counting::MOST) == @place
            end
            @analysis.often.map { |range| each.sum { |number, people| range.cover?(number) ? people : 0 } }
          end
        end

        # @return [Array<Integer>] visits by hour of the week, from Monday midnight on
        def clock = Array.new(Counting::HOURS) { |hour| @found[:clock].fetch((@place * Counting::HOURS) + hour, 0) }

        # @param window [Hash] as JSON
        # @param visit [Hash] what is asked of the visits besides, see {Audience::Condition::Visited}
        # @return [Hash] the condition, as JSON, of who paid such visits
        def people_in(window: whole, count: { "at_least" => 1 }, **visit)
          @analysis.people_of(group) do |where|
            began = where.any? ? { "began" => { "any_event" => true, "where" => where } } : {}
            [{ "visited" => { "count" => count, **visit.transform_keys(&:to_s), **(group[:visit] || {}), **began,
                              "window" => window } }]
          end
        end

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          figures = FIGURES.keys.to_h { |name| [name, { values: values(name), total: total(name) }] }
          { name: name, group: group.slice(:id, :kind, :value, :people_in), figures: figures, lengths: lengths,
            often: often, clock: clock }
        end

        private

        def first = @place * EventCounts.width(@analysis.steps)

        def whole = { "from" => @analysis.from.iso8601, "to" => @analysis.to.iso8601 }

        def figure(name, code)
          case name
          when :visits then @counts.times(code)
          when :people then @counts.people(code)
          when :per_person then ratio(@counts.times(code), @counts.people(code))
          when :mean then ratio(sum(:time, code) / SECOND, @counts.times(code))
          when :median, :p90 then Statistics::Quantile.of(lasted(code), name == :median ? 0.5 : 0.9)
          when :single then ratio(sum(:single, code), @counts.times(code))
          when :days then ratio(sum(:days, code), @counts.people(code))
          when :per_day then ratio(sum(:time, code) / SECOND, sum(:days, code))
          end
        end

        def ratio(above, below) = below.zero? ? nil : above.fdiv(below)

        # Of the whole range, what its periods have together.
        def sum(name, code) = code == @counts.whole(@place) ? over_range(name) : @found[name].fetch(code, 0)

        def over_range(name) = @analysis.periods.each_index.sum { |at| @found[name].fetch(first + at, 0) }

        # Seconds, in order, each with how many visits took so many.
        def lasted(code)
          return seconds if code == @counts.whole(@place)

          @lasted ||= @found[:lasted].group_by { |key, _| key.div(Counting::MOST) }
          @lasted.fetch(code, []).map { |key, visits| [key % Counting::MOST, visits] }.sort
        end

        def seconds
          @seconds ||= @analysis.periods.each_index.flat_map { |at| lasted(first + at) }
                                .each_with_object(Hash.new(0)) { |(second, visits), all| all[second] += visits }.sort
        end
      end
    end
  end
end
