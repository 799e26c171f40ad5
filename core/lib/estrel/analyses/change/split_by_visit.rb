# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # Visits told apart by a property of the event they began with. What is done in visits that began before the
      # period, or outside of any, is a group of its own.
      class SplitByVisit < Split
        ANYTHING = { "any_event" => true }.freeze
        private_constant :ANYTHING

        # @param catalogue [Catalogue]
        # @return [Array<SplitByVisit>] of every text and boolean that visits may begin with
        def self.all(catalogue)
          begins = catalogue.event_types.values.reject(&:not_activity)
          fields = begins.flat_map { |type| type.properties.values }.group_by(&:name)
          told = fields.select { |_, found| found.all? { |field| TOLD_APART.include?(field.type) } }
          anything = Metric.selection(ANYTHING, catalogue, "of")
          told.keys.map do |name|
            called = "#{catalogue.names.property(name)} of the visit's first event"
            new(Audience::EventSplit.new(name, [anything], catalogue), called)
          end
        end

        # @param counting [Counting]
        # @param period [Integer]
        # @return [Polars::DataFrame] every visit of the period, and below them what was done outside of these:
        #   `profile_id`, the value that it began with as `told`, whether it is `rest`, `n` and `y`
        def rows(counting, period)
          visits = counting.visits(period, @split)
          done = counting.done_in_visits(period)
          keys = %w[profile_id visit_start]
          inside = visits.join(done, on: keys, how: "left").with_columns([Polars.col("y").fill_null(0)])
          outside = done.join(visits, on: keys, how: "anti", join_nulls: true)
          outside = outside.with_columns([Polars.lit(nil).cast(Polars::String).alias("told")])
          Polars.concat([told(inside, 1), told(outside, 0)])
        end

        # @param label [Array, nil] of {Lifecycle::Grouping.labels}; nil for the rest
        # @param labels [Array<Array>] all of them
        # @param days [Range<Date>] of the period
        # @param selection [Audience::Selection]
        # @return [Hash, nil] the condition, as JSON, of those who did it in such visits; nil for the rest
        def people_in(label, labels, days, selection)
          return unless label

          began = { **ANYTHING, "where" => @split.filters(label.first, label.last, named(labels)) }
          { "visited" => { "began" => began, "doing" => [selection.to_h], "count" => { "at_least" => 1 },
                           "window" => window(days) } }
        end

        private

        def rest = "outside these visits"

        def told(rows, number)
          rest = number.zero?
          rows.select([Polars.col("profile_id"), Polars.col("told"), Polars.lit(rest).alias("rest"),
                       Polars.lit(number).cast(Polars::Int64).alias("n"), Polars.col("y")])
        end
      end
    end
  end
end
