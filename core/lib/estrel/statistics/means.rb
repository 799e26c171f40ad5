# frozen_string_literal: true

module Estrel
  module Statistics
    # Estimates for means of something that each person has.
    module Means
      module_function

      # The difference of two means whose variances may differ, with its 95% interval and two-sided p-value (B. L.
      # Welch, Biometrika 34 (1947), 28–35).
      #
      # @param one [Hash{Symbol => Numeric}] `people` (2 or more), `mean`, `variance` (of the sample) of the first
      # @param other [Hash{Symbol => Numeric}] likewise of the second
      # @return [Hash{Symbol => Float}] `estimate`, `low`, `high` (first minus second), `p_value`
      def welch(one, other)
        parts = [one, other].map { |group| group[:variance].fdiv(group[:people]) }
        estimate = (one[:mean] - other[:mean]).to_f
        error = Math.sqrt(parts.sum)
        return { estimate: estimate, low: estimate, high: estimate, p_value: estimate.zero? ? 1.0 : 0.0 } if error.zero?

        degrees = (parts.sum**2) / [one, other].zip(parts).sum { |group, part| (part**2) / (group[:people] - 1) }
        half = Student.quantile(degrees) * error
        { estimate: estimate, low: estimate - half, high: estimate + half,
          p_value: Student.two_sided(estimate / error, degrees) }
      end

      # The mean of differences, one per person, with its 95% interval and two-sided p-value: the paired t test
      # (Student, Biometrika 6 (1908), 1–25). Or one per pair of people, of whom one may be in several pairs: then
      # differences that share somebody may go together (P. M. Aronow, C. Samii and V. A. Assenova, Political Analysis
      # 23 (2015), 564–577), and there are as many degrees of freedom as different people on the side with fewer, less
      # one. It is never taken to be surer than if no pairs shared anybody.
      #
      # @param differences [Polars::Series] of floats
      # @param pair [Array<Polars::Series>] who is in each pair, the one and the other; nobody where each row is a
      #   person's own
      # @return [Hash{Symbol => Float}, nil] `estimate`, `low`, `high`, `p_value`; nil for fewer than two
      def paired(differences, *pair)
        count = [differences.len, *pair.map(&:n_unique)].min
        return if count < 2

        estimate = differences.mean
        error = Math.sqrt(differences.var / differences.len) * Math.sqrt(shared(differences - estimate, pair))
        return { estimate: estimate, low: estimate, high: estimate, p_value: estimate.zero? ? 1.0 : 0.0 } if error.zero?

        half = Student.quantile(count - 1.0) * error
        { estimate: estimate, low: estimate - half, high: estimate + half,
          p_value: Student.two_sided(estimate / error, count - 1.0) }
      end

      # How many times the variance is what it would be if no pairs shared anybody. Rows of the same two people share
      # both, and count once.
      def shared(residuals, pair)
        alone = (residuals * residuals).sum.to_f
        return 1.0 if pair.empty? || alone.zero?

        one, other = pair.map { |who| Polars::DataFrame.new([who.alias("who"), residuals.alias("apart")]) }
        both = one.with_columns([other["who"].alias("whom")])
        [(squares(Polars.concat([one, other]), %w[who]) - squares(both, %w[who whom])) / alone, 1.0].max
      end

      def squares(rows, by)
        sums = rows.group_by(by).agg([Polars.col("apart").sum])["apart"].sort
        (sums * sums).sum
      end
      private_class_method :squares
      private_class_method :shared

      # The 95% interval of what things amount to per person, of which one person may have several: the delete-a-group
      # jackknife over blocks of people (P. S. Kott, Journal of Official Statistics 17 (2001), 521–526), with Student's
      # quantile for one less than the blocks.
      #
      # @param blocks [Array<Array(Numeric, Integer)>] of each block, the sum and how many it is divided by
      # @return [Array(Float, Float), Array(nil, nil)] nil where fewer than two blocks have any
      def jackknife(blocks)
        blocks = blocks.select { |_, count| count.positive? }
        return [nil, nil] if blocks.size < 2

        sum, all = blocks.transpose.map(&:sum)
        jackknifed(sum.fdiv(all), blocks.map { |own, count| (sum - own).fdiv(all - count) })
      end

      # @param estimate [Float] of everybody
      # @param left_out [Array<Float>] the same without one block of people each
      # @return [Array(Float, Float)] the 95% interval, see {.jackknife}
      def jackknifed(estimate, left_out)
        half = Student.quantile(left_out.size - 1.0) * jackknife_error(estimate, left_out)
        [estimate - half, estimate + half]
      end

      # @param estimate [Float] of everybody
      # @param left_out [Array<Float>] the same without one block of people each
      # @return [Float] two-sided p-value of its being 0, see {.jackknife}
      def jackknife_p_value(estimate, left_out)
        error = jackknife_error(estimate, left_out)
        return estimate.zero? ? 1.0 : 0.0 if error.zero?

        Student.two_sided(estimate / error, left_out.size - 1.0)
      end

      def jackknife_error(estimate, left_out)
        count = left_out.size
        Math.sqrt(left_out.sum { |one| (one - estimate)**2 } * (count - 1) / count)
      end
      private_class_method :jackknife_error

      # The 95% intervals of the means of values that each of the same number of people has (Student, Biometrika 6
      # (1908), 1–25).
      #
      # @param people [Integer]
      # @param sums [Array<Array(Numeric, Numeric)>] of each value, the sum over the people and the sum of its squares
      # @return [Array<Array(Float, Float)>] low and high of each; of nil for fewer than two people
      def intervals(people, sums)
        return sums.map { [nil, nil] } if people < 2

        quantile = Student.quantile(people - 1.0)
        sums.map do |sum, squares|
          mean = sum.fdiv(people)
          half = quantile * Math.sqrt([squares - (sum * mean), 0.0].max / (people - 1.0) / people)
          [mean - half, mean + half]
        end
      end
    end
  end
end
