# frozen_string_literal: true

module Estrel
  module Statistics
    # Estimates for shares of people: of how many of them something is true.
    module Shares
      module_function

      # The difference of two independent shares with its 95% interval: Newcombe's hybrid score interval, method 10 of
      # R. G. Newcombe, Statistics in Medicine 17 (1998), 873–890.
      #
      # @param hits [Integer] of the first
      # @param total [Integer] of the first, positive
      # @param other_hits [Integer] of the second
      # @param other_total [Integer] of the second, positive
      # @return [Hash{Symbol => Float}] `estimate`, `low`, `high`: first share minus second
      def difference(hits, total, other_hits, other_total)
        share = hits.fdiv(total)
        other = other_hits.fdiv(other_total)
        low, high = wilson(hits, total)
        other_low, other_high = wilson(other_hits, other_total)
        estimate = share - other
        { estimate: estimate, low: estimate - Math.hypot(share - low, other_high - other),
          high: estimate + Math.hypot(high - share, other - other_low) }
      end

      # The difference of the shares of two groups that some people are in both of: it is made of the shares of those in
      # the one alone, in the other alone and in both, whose score intervals are put together by square-and-add (G. Y.
      # Zou, W. Huang and X. Zhang, Computational Statistics & Data Analysis 53 (2009), 1080–1085). Without anybody in
      # both it is {difference}.
      #
      # @param one [Array(Integer, Integer)] hits and total of those in the first group alone
      # @param other [Array(Integer, Integer)] in the second alone
      # @param both [Array(Integer, Integer)]
      # @return [Hash{Symbol => Float}] `estimate`, `low`, `high`: first share minus second, `p_value` as of {p_value}
      def overlapping(one, other, both)
        sizes = [one, other].map { |_, total| total + both[1] }
        parts = [[one, 1.0 / sizes[0]], [other, -1.0 / sizes[1]], [both, (1.0 / sizes[0]) - (1.0 / sizes[1])]]
        parts = parts.select { |(_, total), _| total.positive? }
        estimate = parts.sum { |(hits, _), weight| hits * weight }
        low, high = [false, true].map { |up| Math.sqrt(parts.sum { |part| reach(*part, up)**2 }) }
        variance = pooled(parts)
        { estimate: estimate, low: estimate - low, high: estimate + high,
          p_value: variance.zero? ? 1.0 : Normal.two_sided(estimate / Math.sqrt(variance)) }
      end

      # The variance of a difference if all parts had one share.
      def pooled(parts)
        hits, total = parts.map(&:first).transpose.map(&:sum)
        share = hits.fdiv(total)
        share * (1 - share) * parts.sum { |(_, size), weight| size * (weight**2) }
      end
      private_class_method :pooled

      # How far a part of a difference may reach beyond its estimate.
      def reach((hits, total), weight, upwards)
        low, high = wilson(hits, total)
        share = hits.fdiv(total)
        (weight.positive? == upwards ? high - share : share - low) * weight * total
      end
      private_class_method :reach

      # A share's 95% score interval (E. B. Wilson, Journal of the American Statistical Association 22 (1927), 209–212).
      #
      # @param hits [Integer]
      # @param total [Integer] positive
      # @return [Array(Float, Float)]
      def wilson(hits, total)
        share = hits.fdiv(total)
        square = Normal::Z * Normal::Z / total
        centre = share + (square / 2)
        half = Normal::Z * Math.sqrt(((share * (1 - share)) / total) + (square / (4 * total)))
        [(centre - half) / (1 + square), (centre + half) / (1 + square)]
      end

      # The 95% interval of a share of things of which one person may have several, see {Means.jackknife}.
      #
      # @param blocks [Array<Array(Integer, Integer)>] of each block of people, hits and total
      # @return [Array(Float, Float), Array(nil, nil)] nil where fewer than two blocks have any
      def jackknife(blocks) = Means.jackknife(blocks).map { |end_of| end_of&.clamp(0.0, 1.0) }

      # How likely two shares are to differ at least so much by chance alone: two-sided z test with the pooled share
      # (Fleiss, Levin and Paik, Statistical Methods for Rates and Proportions, 3rd edition 2003, section 3.2, without
      # correction for continuity).
      #
      # @param hits [Integer] of the first
      # @param total [Integer] of the first, positive
      # @param other_hits [Integer] of the second
      # @param other_total [Integer] of the second, positive
      # @return [Float] p-value; 1 where everybody or nobody is a hit
      def p_value(hits, total, other_hits, other_total)
        pooled = (hits + other_hits).fdiv(total + other_total)
        variance = pooled * (1 - pooled) * ((1.0 / total) + (1.0 / other_total))
        return 1.0 if variance.zero?

        Normal.two_sided((hits.fdiv(total) - other_hits.fdiv(other_total)) / Math.sqrt(variance))
      end

      # The difference of two shares, where chance does not explain it although several are compared (Bonferroni).
      #
      # @param comparisons [Integer] how many are compared
      # @return [Hash{Symbol => Float}, nil] see {difference}
      def clear_difference(hits, total, other_hits, other_total, comparisons)
        return if p_value(hits, total, other_hits, other_total) > 0.05 / comparisons

        difference(hits, total, other_hits, other_total)
      end

      # The ratio of two shares with its 95% interval on the logarithmic scale (Katz, Baptista, Azen and Pike,
      # Biometrics 34 (1978), 469–474).
      #
      # @return [Hash{Symbol => Float}, nil] `estimate`, `low`, `high`: first share over second; nil where one
      #   has no hit
      def ratio(hits, total, other_hits, other_total)
        return if hits.zero? || other_hits.zero?

        estimate = hits.fdiv(total) / other_hits.fdiv(other_total)
        half = Normal::Z * Math.sqrt((1.0 / hits) - (1.0 / total) + (1.0 / other_hits) - (1.0 / other_total))
        { estimate: estimate, low: estimate * Math.exp(-half), high: estimate * Math.exp(half) }
      end
    end
  end
end
