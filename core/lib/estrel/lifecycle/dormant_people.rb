# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Dormant people by the state they were in on the day before they went dormant, and by how long they have been
    # inactive.
    class DormantPeople
      # Into how many stretches of inactive days they are told apart.
      SPANS = 4

      # @param rule_set [RuleSet]
      # @return [Array<Range<Integer>>] the stretches of inactive days, both ends included
      def self.spans(rule_set)
        ends = rule_set.churned_after
        width = ((ends - rule_set.active_within) / SPANS.to_f).ceil
        (rule_set.active_within...ends).step(width).map { |start| start..([start + width, ends].min - 1) }
      end

      # @param lifecycle [Lifecycle]
      # @param date [Date]
      def initialize(lifecycle, date)
        @lifecycle = lifecycle
        @rule_set = lifecycle.rule_set
        @date = date
      end

      # @return [Hash] `origins`: people per state on the day before ("reactivated" where the mark still stood that day,
      #   which takes a reactivation for a single day); `spans`: people per stretch of {.spans}
      def counts = { "origins" => origins, "spans" => spans }

      private

      def dormant = @dormant ||= @lifecycle.states(@date).filter(Polars.col("state") == "dormant")

      # The spell each is in the aftermath of.
      def spells
        day = Calendar.number(@date)
        latest = @lifecycle.spells.filter((Polars.col("next_start") > day) & (Polars.col("start") <= day))
        dormant.select(["profile_id"]).join(latest, on: "profile_id", how: "left")
      end

      def origins
        start, first = %w[start first_day].map { |name| Polars.col(name) }
        eve = Polars.col("last") + @rule_set.active_within - 1
        came_back = (start > first) & (eve - start < @rule_set.active_within)
        origin = Polars.when(came_back).then(Polars.lit("reactivated")).when(eve - first < @rule_set.new_for)
                       .then(Polars.lit("new")).otherwise(Polars.lit("active"))
        counts = spells.select([origin.alias("origin")])["origin"].to_a.tally
        %w[new active reactivated].to_h { |name| [name, counts.fetch(name, 0)] }
      end

      def spans
        inactive = dormant["inactive_days"].to_a
        DormantPeople.spans(@rule_set).map { |days| inactive.count { |count| days.cover?(count) } }
      end
    end
  end
end
