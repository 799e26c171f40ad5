# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # Those exported against the holdout, by one outcome: the difference with its interval, the same relative to the
      # holdout, in all, and adjusted for what was known of everybody before.
      class Comparison
        # Of sums of fewer people than this no band is drawn: it would reach beyond everything.
        FEW = 5
        # What came of one group: people, how many of them have any of it, and of what each has the mean and variance.
        Group = Struct.new(:people, :some, :mean, :variance, keyword_init: true) do
          # @return [Boolean] whether anybody has any of it
          def some? = some.positive?
        end

        # @param people [Polars::DataFrame] `profile_id`, `run`, `held`
        # @param after [Polars::DataFrame] see {Outcome#of}
        # @param before [Polars::DataFrame]
        # @param outcome [Outcome]
        def initialize(people, after, before, outcome)
          @people = people
          @after = after
          @before = before
          @outcome = outcome
        end

        # @return [Array<Group>] those exported, and the holdout
        def groups = @groups ||= sides(values).map { |side| Group.new(**Statistics::SkewedMeans.of(side)) }

        # People who did it: of a sum also those whose numbers add up to nothing.
        #
        # @return [Array<Integer>] of those exported, and of the holdout
        def did
          return groups.map(&:some) if share?

          @did ||= begin
            who = @after.select(%w[profile_id run]).unique
            held = @people.join(who, on: %w[profile_id run], how: "inner")["held"]
            [held.len - held.sum.to_i, held.sum.to_i]
          end
        end

        # @return [Float, nil] at how much sums are cut; nil where they are not
        def cut
          return unless @outcome.cut?

          @cut ||= Statistics::SkewedMeans.cut(sides(whole))
        end

        # @return [Array<Float, nil>] what it is per person where sums are not cut
        def uncut = sides(whole).map(&:mean)

        # @return [Boolean] whether there are people to compare
        def told? = groups.all? { |group| group.people > (share? ? 0 : 1) } && (share? || groups.all?(&:some?))

        # @return [Hash{Symbol => Float}, nil] `estimate`, `low`, `high`; nil where there is nothing to compare
        def difference = found&.slice(:estimate, :low, :high)

        # @return [Float, nil]
        def p_value
          return unless told?

          share? ? Statistics::Shares.p_value(*counts) : found[:p_value]
        end

        # @return [Hash{Symbol => Float}, nil] as a part of that of the holdout
        def relative
          return unless told?

          ratio = share? ? Statistics::Shares.ratio(*counts) : Statistics::SkewedMeans.ratio(*groups.map(&:to_h))
          ratio&.transform_values { |value| value - 1 }
        end

        # @return [Hash{Symbol => Float}, nil] the difference over all those exported
        def total = difference&.transform_values { |value| value * groups.first.people }

        # The difference that is left once what was known before is taken account of (A. Deng, Y. Xu, R. Kohavi and T.
        # Walker, Proceedings of WSDM 2013, 123–132; linear, with one slope within both groups). It is of the same
        # thing, only surer the more of it could be known before.
        #
        # @return [Hash{Symbol => Float}, nil] `estimate`, `low`, `high`, and by what part the variance is `less`
        def adjusted
          return unless told? && groups.all? { |group| group.people > 1 }

          known = sides(column(@before, nil))
          mine = sides(values)
          slope = slope(mine, known) or return
          found, plain = [mine.zip(known).map { |own, before| own - (before * slope) }, mine].map do |pair|
            pair.map { |side| { people: side.len, mean: side.mean, variance: side.var } }
          end
          told = Statistics::Means.welch(*found)
          { **told.slice(:estimate, :low, :high), less: 1 - (variance(found) / variance(plain)) }
        end

        # The cumulative course of each group.
        #
        # @param offsets [Array<Integer>] days since the run
        # @return [Array<Hash{Symbol => Object}>] of each, `day` and for those `exported` and `held` the mean with the
        #   ends of its interval
        def curve(offsets)
          own = @after.join(@people.select(%w[profile_id run held]), on: %w[profile_id run], how: "inner")
                      .sort(%w[profile_id run offset])
          sides = [own.filter(Polars.col("held").is_not), own.filter(Polars.col("held"))]
          courses = sides.zip(groups).map { |rows, group| course(rows, group.people, offsets) }
          offsets.zip(*courses).map { |offset, one, other| { day: offset, exported: one, held: other } }
        end

        # The variance of the difference; of shares as if one more of each group had and one more had not, so that there
        # is one where nobody or everybody has (A. Agresti and B. Caffo, The American Statistician 54 (2000), 280–288).
        #
        # @return [Float, nil]
        def spread
          return unless told?
          return variance(groups.map(&:to_h)) unless share?

          groups.sum do |group|
            share = (group.some + 1).fdiv(group.people + 2)
            share * (1 - share) / (group.people + 2)
          end
        end

        private

        def share? = @outcome.share?

        def counts = groups.flat_map { |group| [group.some, group.people] }

        def found
          return unless told?

          @found ||= if share? then Statistics::Shares.difference(*counts)
                     else Statistics::SkewedMeans.difference(*groups.map(&:to_h))
                     end
        end

        # What each person has, those with nothing included.
        def values = @values ||= column(@after, cut)

        def whole = @whole ||= column(@after, nil)

        # @return [Polars::DataFrame] `held` and `value` of each person
        def column(rows, cut)
          sums = rows.group_by(%w[profile_id run]).agg([Polars.col("value").sum])
          value = Polars.col("value").fill_null(0.0)
          @people.select(%w[profile_id run held]).join(sums, on: %w[profile_id run], how: "left")
                 .sort(%w[profile_id run]).select([Polars.col("held"), cut ? value.clip(-cut, cut) : value])
        end

        # The values of those exported, and of the holdout.
        def sides(values)
          held = values["held"]
          [held.to_frame.select([Polars.col("held").is_not])["held"], held].map { |mine| values.filter(mine)["value"] }
        end

        def slope(mine, known)
          covariance = variance = 0.0
          mine.zip(known).each do |own, before|
            apart = before - before.mean
            covariance += (apart * (own - own.mean)).sum
            variance += (apart * apart).sum
          end
          covariance / variance unless variance < 1e-12
        end

        def variance(groups) = groups.sum { |group| group[:variance].to_f / group[:people] }

        # Of one group, what each has up to each day.
        def course(rows, people, offsets)
          return offsets.map { { mean: nil, low: nil, high: nil } } if people.zero?

          offsets.map do |offset|
            so_far = rows.filter(Polars.col("offset") <= offset)
            share? ? share(so_far["value"].sum.to_i, people) : mean(so_far, people)
          end
        end

        def share(did, people)
          low, high = Statistics::Shares.wilson(did, people)
          { mean: did.fdiv(people), low: low, high: high }
        end

        def mean(rows, people)
          sums = rows.group_by(%w[profile_id run], maintain_order: true).agg([Polars.col("value").sum])["value"]
          told = Statistics::SkewedMeans.of(cut ? sums.clip(-cut, cut) : sums, people)
          low, high = Statistics::SkewedMeans.interval(told) if told[:some] >= FEW
          { mean: told[:mean], low: low, high: high }
        end
      end
    end
  end
end
