# frozen_string_literal: true

module Estrel
  module Analyses
    class BeforeAfter < Analysis
      # What came of those who did it beside people like them who had not, pair by pair. The same person may stand
      # beside several others, and be one of those who did it later, so the interval is that of pairs which share people
      # (P. M. Aronow, C. Samii and V. A. Assenova, Cluster-robust variance estimation for dyadic data, Political
      # Analysis 23 (2015), 564–577).
      class Beside
        # Fewer pairs than this carry no verdict.
        ENOUGH = 50
        # Who is active on day 0 is a share; the rest are numbers.
        BALANCED = { "n" => "Events in the before-period", "inactive" => "Days inactive on the day before",
                     "age" => "Days known", "active" => "Active on day 0" }.freeze
        private_constant :BALANCED

        # @param pairs [Polars::DataFrame] `profile_id`, `matched_id`, `day`, and what is known of each, that of the
        #   matched ones with "_theirs"
        # @param own [Array<Polars::DataFrame>] what those who did have around day 0, and around a day before:
        #   `profile_id`, `day`, `before`, `after`
        # @param theirs [Array<Polars::DataFrame>] the same of those beside them
        # @param days [Hash{Integer => Array(Numeric, Numeric)}] of those beside them, see {Rates#of}
        # @param others [Array(Polars::DataFrame, Polars::DataFrame)] all who did, as of {Matching#alike}, and who was
        #   at risk, as of {Matching#candidates}
        def initialize(pairs, own, theirs, days, others)
          @pairs = pairs
          @own = own
          @theirs = theirs
          @days = days
          @others = others
        end

        # @return [Hash{Symbol => Object}] as the picture has it, but for the series
        def to_h
          rows = compared(0)
          { pairs: rows.height, people: @pairs["matched_id"].n_unique,
            mean_before: rows["before_theirs"].mean, mean_after: rows["after_theirs"].mean,
            own_before: rows["before"].mean, own_after: rows["after"].mean,
            difference: difference(rows), placebo: placebo, balance: balance }
        end

        # @return [Hash{Integer => Array(Numeric, Numeric)}]
        attr_reader :days

        # @param difference [Hash{Symbol => Float}, nil]
        # @return [Boolean] whether it may be none
        def self.unclear?(difference) = difference.nil? || 0.between?(difference[:low], difference[:high])

        private

        # The rates of each pair in a row, of those who have them.
        def compared(which)
          theirs = @theirs[which].rename({ "profile_id" => "matched_id", "before" => "before_theirs",
                                           "after" => "after_theirs" })
          @pairs.select(%w[profile_id matched_id day]).join(@own[which], on: %w[profile_id day], how: "inner")
                .join(theirs, on: %w[matched_id day], how: "inner").sort(%w[profile_id day])
        end

        # The same question asked of the days before, when nothing had been done yet.
        def placebo
          rows = compared(1)
          { pairs: rows.height, difference: difference(rows) }
        end

        # How much more those who did it gained than those beside them.
        def difference(rows)
          own, other = ["", "_theirs"].map { |of| rows["after#{of}"] - rows["before#{of}"] }
          Statistics::Means.paired(own - other, rows["profile_id"], rows["matched_id"])
        end

        # By how many standard deviations of those who did the others differ from them, before and after matching
        # (P. C. Austin, Statistics in Medicine 28 (2009), 3083–3107); the others before matching are weighted so that
        # each day counts as often as it is the day 0 of somebody.
        def balance
          BALANCED.map do |name, label|
            all = @others.first[name].cast(Polars::Float64)
            mine, theirs = [name, "#{name}_theirs"].map { |column| @pairs[column].cast(Polars::Float64).mean }
            { key: name, label: label, all: all.mean, at_risk: at_risk(name), own: mine, matched: theirs,
              before: apart(all, all.mean, at_risk(name)), after: apart(all, mine, theirs) }
          end
        end

        def apart(all, one, other)
          spread = all.len < 2 ? 0.0 : Math.sqrt(all.var)
          spread.zero? || one.nil? || other.nil? ? nil : (one - other) / spread
        end

        # The mean of those at risk.
        def at_risk(name)
          of_day = @others.last.group_by("day").agg([Polars.col("people").sum, Polars.col(name).sum])
          weights = @others.first.group_by("day").agg([Polars.len.cast(Polars::Int64).alias("weight")])
          rows = of_day.join(weights, on: "day", how: "inner").sort("day")
          return if rows.height.zero?

          ((rows[name] / rows["people"]) * rows["weight"]).sum / rows["weight"].sum
        end
      end
    end
  end
end
