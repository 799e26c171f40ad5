# frozen_string_literal: true

module Estrel
  module Statistics
    # Logistic regression with a ridge penalty, by iteratively reweighted least squares (P. McCullagh and J. A. Nelder,
    # Generalized Linear Models, 2nd ed. 1989, 2.5; S. le Cessie and J. C. van Houwelingen, Ridge estimators in logistic
    # regression, Applied Statistics 41 (1992), 191–201).
    module Logistic
      STEPS = 50
      HALVINGS = 30
      NEAR = 1e-15
      private_constant :STEPS, :HALVINGS, :NEAR

      module_function

      # Columns are standardised before they are penalised, so that their units do not matter; the intercept is not
      # penalised.
      #
      # @param rows [Polars::DataFrame] of floats
      # @param outcome [String] column of 0 and 1, both of which occur
      # @param columns [Array<String>]
      # @param ridge [Float] half of it times the sum of the squared coefficients is taken from the log-likelihood
      # @param cluster [String, nil] column of what rows have in common that do not stand for themselves, a person's say
      # @return [Hash{Symbol => Object}] `intercept`, and `weights` by column, in the units of the columns, with their
      #   standard `errors` (of clusters by the sandwich estimator: P. J. Huber, Proceedings of the Fifth Berkeley
      #   Symposium 1 (1967), 221–233)
      def fit(rows, outcome, columns, ridge: 1.0, cluster: nil)
        scales = scales(rows, columns)
        varied = columns.select { |name| scales[name].last.positive? }
        scaled = varied.map { |name| ((Polars.col(name) - scales[name].first) / scales[name].last).alias(name) }
        rows = rows.select([Polars.col(outcome).cast(Polars::Float64), *scaled, *cluster])
        beta = solved(rows, outcome, varied, ridge)
        weights, errors = [beta, errors(rows, outcome, varied, beta, ridge, cluster)].map do |values|
          found = varied.zip(values.drop(1)).to_h
          columns.to_h { |name| [name, found.key?(name) ? found[name] / scales[name].last : 0.0] }
        end
        { intercept: beta.first - varied.sum { |name| weights[name] * scales[name].first }, weights: weights,
          errors: errors }
      end

      # @param fit [Hash{Symbol => Object}] of {fit}
      # @return [Polars::Expr] the probability for each row
      def probability(fit) = Polars.lit(1.0) / ((linear(fit) * -1).exp + 1)

      def linear(fit)
        terms = fit[:weights].map { |name, weight| Polars.col(name) * weight }
        terms.sum(Polars.lit(fit[:intercept]))
      end

      def scales(rows, columns)
        told = rows.select(columns.flat_map do |name|
          [Polars.col(name).mean.alias("#{name} mean"), Polars.col(name).std.alias("#{name} std")]
        end).row(0)
        columns.zip(told.each_slice(2)).to_h { |name, (mean, std)| [name, [mean.to_f, std.to_f]] }
      end

      def solved(rows, outcome, names, ridge)
        beta = Array.new(names.size + 1, 0.0)
        share = rows[outcome].mean.clamp(1e-6, 1 - 1e-6)
        beta[0] = Math.log(share / (1 - share))
        likelihood = ->(at) { likelihood(rows, outcome, named(names, at), ridge) }
        reached = likelihood[beta]
        STEPS.times do
          step = Linear.solve(*derivatives(rows, outcome, names, beta, ridge))
          beta, gained = uphill(beta, step, reached, likelihood)
          reached += gained
          break if gained < NEAR * reached.abs
        end
        beta
      end

      # Of the intercept and each of the scaled columns.
      def errors(rows, outcome, names, beta, ridge, cluster)
        hessian, = derivatives(rows, outcome, names, beta, ridge)
        bread = Linear.inverse(hessian)
        return bread.each_index.map { |at| Math.sqrt(bread[at][at]) } unless cluster

        meat = scattered(rows, outcome, names, beta, cluster)
        bread.map do |row|
          half = meat.map { |other| other.zip(row).sum { |one, two| one * two } }
          Math.sqrt(half.zip(row).sum { |one, two| one * two })
        end
      end

      # The products of the clusters' scores, added up.
      def scattered(rows, outcome, names, beta, cluster)
        of = [Polars.lit(1.0), *names.map { |name| Polars.col(name) }]
        scores = of.each_with_index.map { |x, at| (x * Polars.col("rest")).sum.alias(at.to_s) }
        each = weighted(rows, outcome, named(names, beta)).group_by(cluster).agg(scores)
        pairs = of.each_index.to_a.product(of.each_index.to_a)
        sums = pairs.map { |i, j| (Polars.col(i.to_s) * Polars.col(j.to_s)).sum.alias("#{i} #{j}") }
        each.select(sums).row(0).each_slice(of.size).to_a
      end

      # A whole step, or as much of it as leads uphill: far from the top a whole one may lead beyond it.
      def uphill(beta, step, reached, likelihood)
        HALVINGS.times do |halved|
          tried = beta.zip(step).map { |from, by| from + (by / (2**halved)) }
          gained = likelihood[tried] - reached
          return [tried, gained] if gained >= 0
        end
        [beta, 0.0]
      end

      def named(names, beta) = { intercept: beta.first, weights: names.zip(beta.drop(1)).to_h }

      def likelihood(rows, outcome, fit, ridge)
        eta = Polars.col("eta")
        above = eta.clip(0.0, Float::INFINITY)
        each = (Polars.col(outcome) * eta) - above - ((eta.abs * -1).exp + 1).log
        sum = rows.with_columns([linear(fit).alias("eta")]).select([each.sum.alias("sum")]).item
        sum - (ridge / 2 * fit[:weights].each_value.sum { |weight| weight**2 })
      end

      # Of the penalised log-likelihood; the negative of the second.
      def derivatives(rows, outcome, names, beta, ridge)
        rows = weighted(rows, outcome, named(names, beta))
        of = [Polars.lit(1.0), *names.map { |name| Polars.col(name) }]
        pairs = of.each_index.to_a.repeated_combination(2).to_a
        sums = [*of.map { |x| x * Polars.col("rest") }, *pairs.map { |i, j| of[i] * of[j] * Polars.col("weight") }]
        told = rows.select(sums.each_with_index.map { |x, index| x.sum.alias(index.to_s) }).row(0)
        penalised(told.first(of.size), pairs.zip(told.drop(of.size)), beta, ridge).reverse
      end

      def weighted(rows, outcome, fit)
        chance = Polars.col("chance")
        rows.with_columns([probability(fit).alias("chance")])
            .with_columns([(Polars.col(outcome) - chance).alias("rest"),
                           (chance * (Polars.lit(1.0) - chance)).alias("weight")])
      end

      def penalised(gradient, second, beta, ridge)
        hessian = Array.new(beta.size) { Array.new(beta.size, 0.0) }
        second.each { |(i, j), sum| hessian[i][j] = hessian[j][i] = sum }
        (1...beta.size).each do |at|
          gradient[at] -= ridge * beta[at]
          hessian[at][at] += ridge
        end
        [gradient, hessian]
      end
      private_class_method :linear, :scales, :solved, :errors, :scattered, :uphill, :named, :likelihood, :derivatives,
                           :weighted, :penalised
    end
  end
end
