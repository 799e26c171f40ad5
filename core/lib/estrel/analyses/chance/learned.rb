# frozen_string_literal: true

module Estrel
  module Analyses
    class Chance
      # What was learned from people at earlier dates, and how it did at a later one.
      class Learned
        # So many people, per thing a chance may depend on, to whom it happened, and so many to whom it did not, does it
        # take (P. Peduzzi and others, Journal of Clinical Epidemiology 49 (1996), 1373–1379).
        EACH = 10
        TENTHS = 10
        private_constant :EACH

        # @param analysis [Chance]
        # @param rows [Hash{Symbol => Polars::DataFrame}] `learning` and `testing`
        def initialize(analysis, rows)
          @analysis = analysis
          @learning, @testing = rows.values_at(:learning, :testing)
          @names = Propensity::Features::NAMES.keys
        end

        # @return [Hash{Symbol => Object}] plain data: `refused`, why there is nothing; or `model`, see
        #   {Propensity::Model#to_h}, `cuts` between its tenths, `tenths` as they did, `discrimination` and `weights`;
        #   `learned_from` and `tested_on`
        def to_h
          tested_on = @analysis.tested_on
          counts = { learned_from: counted(@learning, *@analysis.learned_from.minmax),
                     tested_on: counted(@testing, tested_on, tested_on) }
          return { refused: refused, **counts } if refused

          { model: model.to_h, cuts: cuts, tenths: tenths, discrimination: discrimination, weights: weights, **counts }
        end

        private

        def counted(rows, from, to)
          from && { from: from.iso8601, to: to.iso8601, people: rows.height, happened: rows["happened"].sum.to_i }
        end

        def refused
          if @analysis.learned_from.empty?
            return "Not enough history: 2 × #{@analysis.within} days are needed after the first people could churn."
          end

          least = EACH * @names.size
          short = [["train on", @learning], ["backtest", @testing]].find { |_, rows| few(rows).min < least }
          return unless short

          did, rest = few(short.last)
          "Not enough data to #{short.first}: at least #{least} people who #{@analysis.did} and #{least} others are " \
            "needed; there are #{English.number(did)} and #{English.number(rest)}."
        end

        def few(rows)
          did = rows["happened"].sum.to_i
          [did, rows.height - did]
        end

        def model
          @model ||= Propensity::Model.new(@analysis.kind, @analysis.within, @analysis.tested_on, @analysis.spend,
                                           **fitted.slice(:intercept, :weights))
        end

        # The same people are looked at at several dates.
        def fitted
          @fitted ||= Statistics::Logistic.fit(@learning, "happened", @names, cluster: "profile_id")
        end

        # By how likely it was, and by the plain rule.
        def scored
          @scored ||= begin
            plain = Polars.col("inactive") * (@analysis.kind == "lapse" ? 1 : -1)
            @testing.select([Polars.col("happened"), model.chance.alias("chance"), plain.alias("plain")])
          end
        end

        def cuts
          @cuts ||= (1...TENTHS).map do |tenth|
            scored["chance"].quantile(tenth.fdiv(TENTHS), interpolation: "linear")
          end.uniq
        end

        def tenths
          happened = Polars.col("happened").sum.cast(Polars::Int64)
          found = scored.with_columns([Tenths.number(cuts).alias("tenth")]).group_by("tenth")
                        .agg([Polars.len.alias("n"), Polars.col("chance").mean, happened])
          found.rows(named: true).to_h { |row| [row["tenth"], row.values_at("n", "chance", "happened")] }
        end

        def discrimination
          found = Statistics::Discrimination.compared(scored, "happened", "chance", "plain")
          { model: found[:one], plain: found[:other], difference: found[:difference] }
        end

        # By what the odds are multiplied by twice as much of something, or by its being so, with 95% intervals.
        def weights
          fitted[:weights].map do |name, weight|
            times = name == "once" ? 1 : Math.log(2)
            margin = Statistics::Normal::Z * fitted[:errors].fetch(name)
            odds, low, high = [weight, weight - margin, weight + margin].map { |one| Math.exp(one * times) }
            { name: Propensity::Features::NAMES.fetch(name), odds: odds, low: low, high: high }
          end
        end
      end
    end
  end
end
