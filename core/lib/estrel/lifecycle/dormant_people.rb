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

      # The spell each is in the aftermath of, with the days since. Within a spell nobody is dormant.
      def dormant
        @dormant ||= begin
          day = Calendar.number(@date)
          begun = (Polars.col("start") <= day) & (Polars.col("next_start") > day)
          inactive = Polars.lit(day) - Polars.col("last")
          dormant = inactive.is_between(@rule_set.active_within, @rule_set.churned_after - 1)
          @lifecycle.spells.filter(begun & dormant).with_columns([inactive.alias("inactive_days")])
        end
      end

      def origins
        start, first = %w[start first_day].map { |name| Polars.col(name) }
        eve = Polars.col("last") + @rule_set.active_within - 1
        came_back = (start > first) & (eve - start < @rule_set.active_within)
        origin = Polars.when(came_back).then(Polars.lit("reactivated")).when(eve - first < @rule_set.new_for)
                       .then(Polars.lit("new")).otherwise(Polars.lit("active"))
        counts = dormant.select([origin.alias("origin")])["origin"].to_a.tally
        %w[new active reactivated].to_h { |name| [name, counts.fetch(name, 0)] }
      end

      def spans
        inactive = dormant["inactive_days"].to_a
        DormantPeople.spans(@rule_set).map { |days| inactive.count { |count| days.cover?(count) } }
      end
    end
  end
end
