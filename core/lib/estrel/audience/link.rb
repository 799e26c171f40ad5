# frozen_string_literal: true

module Estrel
  module Audience
    # How a step of an order follows the one before: any time after, within a time, as the very next event, in the same
    # visit, on another day. Frozen.
    class Link
      UNITS = { "minutes" => 60, "hours" => 3_600, "days" => 86_400 }.freeze

      # @return [Hash, nil] such as `{"days" => 7}`
      attr_reader :within
      # @return [Boolean] nothing else in between
      attr_reader :next
      # @return [Boolean]
      attr_reader :same_visit
      # @return [Boolean] on a later day
      attr_reader :other_day

      # @param json [Hash]
      def initialize(json)
        @within = json["within"]&.dup&.freeze
        @next = json["next"] == true
        @same_visit = json["same_visit"] == true
        @other_day = json["other_day"] == true
        freeze
      end

      # @param within [Hash] such as `{"days" => 7}`; a day is 24 hours here
      # @return [Integer] microseconds
      def self.micros(within) = within.sum { |unit, count| UNITS.fetch(unit) * count } * Calendar::MICROS

      # @param before [Polars::DataFrame] events that can be the step before, sorted by profile and time
      # @param candidates [Polars::DataFrame] events that could follow, likewise
      # @param evaluator [Evaluator]
      # @param window [Window] in which all of them lie
      # @return [Polars::LazyFrame] the candidates that do follow, in order
      def following(before, candidates, evaluator, window)
        joined = latest_before(before, candidates, evaluator)
        return joined.lazy.filter(condition) unless self.next || same_visit

        joined = joined.filter(condition)
        joined = next_only(joined, evaluator, window) if self.next
        joined = in_one_visit(joined, evaluator, window) if same_visit
        joined.lazy
      end

      # @return [Hash] plain JSON
      def to_h
        { "within" => within, "next" => self.next || nil, "same_visit" => same_visit || nil,
          "other_day" => other_day || nil }.compact
      end

      private

      # Each candidate with the latest event that lies before it, or before its day where another day is asked for.
      def latest_before(before, candidates, evaluator)
        unless other_day
          found = evaluator.timeline.look_back(candidates, before)
          return candidates.with_columns([found.alias("before_at")])
        end

        look = before.select([Polars.col("profile_id"), Polars.col("day").alias("until"),
                              Polars.col("occurred_at").alias("before_at")])
        earlier = candidates.with_columns([(Polars.col("day") - 1).alias("until")])
        earlier.join_asof(look, on: "until", by: "profile_id", strategy: "backward").drop("until")
      end

      def condition
        after = Polars.col("before_at").is_not_null
        return after unless within

        after & ((Polars.col("occurred_at") - Polars.col("before_at")) <= self.class.micros(within))
      end

      # The very next: no event of any kind lies between the two.
      def next_only(joined, evaluator, window)
        previous = evaluator.previous_instants(joined.drop("before_at"), window)
        joined.hstack([previous]).filter(Polars.col("before_at") == Polars.col("previous_at"))
      end

      def in_one_visit(joined, evaluator, window)
        mine = evaluator.visits(window).marked(joined)
        mine.filter(Polars.col("before_at") >= Polars.col("visit_start"))
      end
    end
  end
end
