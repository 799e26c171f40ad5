# frozen_string_literal: true

module Estrel
  module Audience
    # How a step of an order follows the one before: any time after, more than a time after, within a time, as the very
    # next event of all or among some, in the same visit, on another day. Frozen.
    class Link
      UNITS = { "minutes" => 60, "hours" => 3_600, "days" => 86_400 }.freeze

      # @return [Hash, nil] such as `{"days" => 7}`
      attr_reader :within
      # @return [Hash, nil] likewise: it follows later than this
      attr_reader :after
      # @return [Boolean] nothing else in between
      attr_reader :next
      # @return [Selection, nil] where only these must not lie in between
      attr_reader :among
      # @return [Boolean]
      attr_reader :same_visit
      # @return [Boolean] on a later day
      attr_reader :other_day

      # @param json [Hash]
      # @param among [Selection, nil] its event types, read
      def initialize(json, among: nil)
        @within = json["within"]&.dup&.freeze
        @after = json["after"]&.dup&.freeze
        @next = json["next"] == true
        @among = among
        @same_visit = json["same_visit"] == true
        @other_day = json["other_day"] == true
        freeze
      end

      # @return [String, nil] why nothing can follow so
      def contradiction
        return unless after
        return "choose either “on another day” or a minimum delay, not both" if other_day
        return unless within && Link.micros(after) >= Link.micros(within)

        "the minimum delay (#{English.within(after)}) must be shorter than the time limit (#{English.within(within)})"
      end

      # @param within [Hash] such as `{"days" => 7}`; a day is 24 hours here
      # @return [Integer] microseconds
      def self.micros(within) = within.sum { |unit, count| UNITS.fetch(unit) * count } * Calendar::MICROS

      # @param before [Polars::DataFrame] events that can be the step before, sorted by profile and time; maybe with
      #   `start_at`, the latest instant at which the first step can have been
      # @param candidates [Polars::DataFrame] events that could follow, likewise
      # @param evaluator [Evaluator]
      # @return [Polars::LazyFrame] the candidates that do follow, in order, with `before_at`, the instant of the step
      #   before, and its `start_at`
      def following(before, candidates, evaluator)
        # What belongs to no visit is in none together with others.
        before = before.filter(Polars.col("visit_start").is_not_null) if same_visit
        joined = latest_before(before, candidates, evaluator)
        joined = joined.lazy.filter(condition)
        joined = joined.filter(Polars.col("before_at") >= Polars.col("previous_at")) if self.next
        joined = joined.filter(Polars.col("before_at") >= Polars.col("visit_start")) if same_visit
        joined
      end

      # Where only who is wanted: only the rarer events of the two are looked up.
      #
      # @param before [Polars::DataFrame] as in {#following}
      # @param candidates [Polars::DataFrame] likewise
      # @param evaluator [Evaluator]
      # @return [Polars::LazyFrame] rows of one or the other frame, of everybody for whom there are two that follow each
      #   other
      def met(before, candidates, evaluator)
        return following(before, candidates, evaluator) if self.next || same_visit || other_day || after ||
                                                           candidates.height <= before.height

        later = evaluator.timeline.look_forward(before, candidates)
        before.lazy.with_columns([Polars.col("occurred_at").alias("before_at"), later.alias("occurred_at")])
              .filter(Polars.col("occurred_at").is_not_null & condition)
      end

      # For links that set no times apart.
      #
      # @param before [Polars::DataFrame] as in {#following}
      # @param followers [Polars::DataFrame] events of {#following}, likewise
      # @param evaluator [Evaluator]
      # @return [Polars::DataFrame] the events that one of the followers follows as the link says
      def followed(before, followers, evaluator)
        rows = before.filter(following_at(before, followers, "occurred_at", evaluator).is_not_null)
        [*("previous_at" if self.next), *("visit_start" if same_visit)].reduce(rows) do |left, name|
          left.filter(left["occurred_at"] >= following_at(left, followers, name, evaluator))
        end
      end

      # @return [Array<String>] what is asked of the spine about the events that follow
      def beside = [*("previous_at" if self.next && among.nil?), *("visit_start" if same_visit)]

      # The events that can follow, with what the spine does not say.
      #
      # @param candidates [Polars::DataFrame] as in {#following}
      # @param first_day [Date, nil] no step lies before this day
      # @param evaluator [Evaluator]
      # @return [Polars::DataFrame] where it is the next among some, with `previous_at`, the latest earlier instant of
      #   one of these
      def prepared(candidates, first_day, evaluator)
        return candidates unless among

        since = Window.new(from: first_day)
        passed = evaluator.timeline.look_back(candidates, among.rows(evaluator, since, keyed: true)).fill_null(Ledger::Spine::NEVER)
        candidates.with_columns([passed.alias("previous_at")])
      end

      # @return [Hash] plain JSON
      def to_h
        { "after" => after, "within" => within, "next" => self.next || nil, "among" => among&.events,
          "same_visit" => same_visit || nil, "other_day" => other_day || nil }.compact
      end

      private

      # What stands in a column of the earliest follower of each event.
      def following_at(before, followers, column, evaluator)
        evaluator.timeline.look_forward(before, followers, column)
      end

      # Each candidate with the latest event that lies before it; more than a time before it, or before its day, where
      # that is asked for.
      def latest_before(before, candidates, evaluator)
        unless other_day || after
          wanted = { "occurred_at" => "before_at", "start_at" => "start_at" }.slice(*before.columns)
          found = wanted.map { |name, told| evaluator.timeline.look_back(candidates, before, name).alias(told) }
          return candidates.with_columns(found)
        end

        column, back = after ? ["occurred_at", self.class.micros(after) + 1] : ["day", 1]
        look = before.select([Polars.col("profile_id"), Polars.col(column).alias("until"),
                              Polars.col("occurred_at").alias("before_at"),
                              *(Polars.col("start_at") if before.columns.include?("start_at"))])
        earlier = candidates.with_columns([(Polars.col(column) - back).alias("until")])
        earlier.join_asof(look, on: "until", by: "profile_id", strategy: "backward").drop("until")
      end

      def condition
        after = Polars.col("before_at").is_not_null
        return after unless within

        after & ((Polars.col("occurred_at") - Polars.col("before_at")) <= self.class.micros(within))
      end
    end
  end
end
