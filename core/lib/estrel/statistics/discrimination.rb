# frozen_string_literal: true

module Estrel
  module Statistics
    # How well scores tell those to whom something happened from those to whom it did not: the c-statistic, the share of
    # pairs of one of each in which the former has the higher score, ties counting half (E. R. DeLong, D. M. DeLong and
    # D. L. Clarke-Pearson, Biometrics 44 (1988), 837–845).
    module Discrimination
      module_function

      # @param rows [Polars::DataFrame] one for each person
      # @param outcome [String] column of 0 and 1, both of which occur at least twice
      # @param one [String] column of scores
      # @param other [String] column of other scores, which it is compared with
      # @return [Hash{Symbol => Hash{Symbol => Float}}] `one`, `other` and `difference`, each `estimate`, `low` and
      #   `high` (95%)
      def compared(rows, outcome, one, other)
        parts = [one, other].map { |score| components(rows, outcome, score) }
        of = ->(frames) { interval(frames) }
        { one: of[parts[0]], other: of[parts[1]],
          difference: of[parts[0].zip(parts[1]).map { |left, right| (left - right).alias("v") }] }
      end

      # What each person adds to the share of pairs: of those to whom it happened, how many of the others lie below
      # them; of the others, how many of the former lie above.
      def components(rows, outcome, score)
        happened = Polars.col(outcome) == 1
        ranked = rows.select([Polars.col(outcome), Polars.col(score).rank.alias("all"),
                              Polars.col(score).rank.over(outcome).alias("own")])
        hits, misses = [happened, happened.is_not].map { |which| ranked.filter(which) }
        below = ((Polars.col("all") - Polars.col("own")) / misses.height).alias("v")
        above = (Polars.lit(1.0) - ((Polars.col("all") - Polars.col("own")) / hits.height)).alias("v")
        [hits.select([below])["v"], misses.select([above])["v"]]
      end

      def interval((hits, misses))
        estimate = hits.mean
        half = Normal::Z * Math.sqrt((hits.var / hits.len) + (misses.var / misses.len))
        { estimate: estimate, low: estimate - half, high: estimate + half }
      end
      private_class_method :components, :interval
    end
  end
end
