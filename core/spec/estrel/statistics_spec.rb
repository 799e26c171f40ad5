# frozen_string_literal: true

RSpec.describe Estrel::Statistics do
  # Quantiles of t as printed in tables (for example Abramowitz and Stegun, table 26.10, two-sided 0.05).
  it "knows the t distribution" do
    { 1 => 12.706, 2 => 4.303, 5 => 2.571, 10 => 2.228, 30 => 2.042, 120 => 1.980 }.each { |degrees, quantile| expect(described_class::Student.quantile(degrees.to_f)).to be_within(0.0005).of(quantile) }
    expect(described_class::Student.quantile(1e6)).to be_within(1e-4).of(described_class::Normal::Z)
    # With one degree of freedom it is the Cauchy distribution: P(|T| > t) = 1 - 2 atan(t) / pi.
    # With two it has a closed form as well: 1 - t / sqrt(2 + t²).
    [0.1, 1.0, 7.5].each do |value|
      expect(described_class::Student.two_sided(value, 1.0)).to be_within(1e-9).of(1 - (2 * Math.atan(value) / Math::PI))
      expect(described_class::Student.two_sided(value, 2.0)).to be_within(1e-9).of(1 - (value / Math.sqrt(2 + (value * value))))
    end
  end

  # Newcombe 1998, table II, cases (a) 56/70 against 48/80 and (b) 9/10 against 3/10, method 10.
  it "gives the intervals Newcombe printed" do
    { [56, 70, 48, 80] => [0.0524, 0.3339], [9, 10, 3, 10] => [0.1705, 0.8090] }.each do |counts, (low, high)|
      found = described_class::Shares.difference(*counts)
      expect([found[:low], found[:high]]).to match([be_within(0.00006).of(low), be_within(0.00006).of(high)])
    end
  end

  # R 4.2: prop.test(x, n, correct = FALSE)$conf.int. For h of n in eight blocks, loo <- sapply(1:8, function(i) sum(h[-i]) / sum(n[-i])) and
  # sum(h) / sum(n) -/+ qt(.975, 7) * sqrt(7 / 8 * sum((loo - sum(h) / sum(n))^2)).
  it "draws the bands of shares as R does" do
    { [150, 200] => [0.685659016880, 0.804918319932], [3, 17] => [0.0619112663762, 0.4102945856883], [0, 12] => [0.0, 0.242494006655] }.each do |counts, told|
      expect(described_class::Shares.wilson(*counts)).to match(told.map { |value| be_within(1e-9).of(value) })
    end
    blocks = [3, 5, 2, 8, 4, 6, 1, 7].zip([10, 12, 9, 15, 11, 10, 8, 13])
    expect(described_class::Shares.jackknife(blocks)).to match([be_within(1e-9).of(0.2829321608220), be_within(1e-9).of(0.5352496573598)])
  end

  it "tests and sizes shares as worked by hand" do
    # 15/100 against 25/100: pooled 0.2, standard error sqrt(0.2 * 0.8 * 0.02) = 0.0566, z = -1.768, p = 0.0771.
    expect(described_class::Shares.p_value(15, 100, 25, 100)).to be_within(0.0001).of(0.0771)
    expect(described_class::Shares.p_value(0, 10, 0, 20)).to eq(1.0)
    # ln(0.6) = -0.5108, standard error sqrt(1/15 - 1/100 + 1/25 - 1/100) = 0.2944.
    expect(described_class::Shares.ratio(15, 100, 25, 100)).to match(estimate: be_within(1e-9).of(0.6), low: be_within(0.0005).of(0.3370), high: be_within(0.0005).of(1.0684))
    expect(described_class::Shares.ratio(0, 100, 25, 100)).to be_nil
    # Equal groups, 0.1 against 0.15: (1.96 sqrt(2 * 0.125 * 0.875) + 0.8416 sqrt(0.09 + 0.1275))² / 0.0025 = 685.5.
    expect(described_class::SampleSize.of_shares(0.1, 0.15, 1.0)).to eq(2 * 686)
    # Variances 4 and 9, difference 0.5, three times as many: 2.8016² (4 + 9 / 3) / 0.25 = 219.8, so 220 and 660.
    expect(described_class::SampleSize.of_means(4.0, 9.0, 0.5, 3.0)).to eq(880)
  end

  it "compares means as Welch does" do
    # Samples 1 to 5 and 2, 4, 6, 8: means 3 and 5, variances 2.5 and 20/3, standard error sqrt(0.5 + 1.667) = 1.4720,
    # degrees of freedom 2.1667² / (0.5² / 4 + 1.6667² / 3) = 4.7494.
    found = described_class::Means.welch({ people: 5, mean: 3, variance: 2.5 }, { people: 4, mean: 5, variance: 20 / 3.0 })
    expect(found[:estimate]).to eq(-2.0)
    expect(found[:high] - found[:estimate]).to be_within(1e-6).of(described_class::Student.quantile(4.749414) * 1.4719601)
    expect(found[:p_value]).to be_between(0.23, 0.24)
    expect(described_class::Means.welch({ people: 2, mean: 1, variance: 0 }, { people: 2, mean: 1, variance: 0 })).to include(p_value: 1.0)
  end

  it "takes pairs that share people to go together" do
    random = Random.new(4)
    values = Array.new(30) { random.rand(-2.0..3.0) }
    pair = Array.new(30) { |row| [row / 2, 100 + random.rand(6)] }
    mean = values.sum / 30
    # Every two pairs that have somebody in common, each with itself too; never less than if there were none.
    products = values.zip(pair).product(values.zip(pair)).select { |(_, one), (_, other)| one.intersect?(other) }.map { |(one, _), (other, _)| (one - mean) * (other - mean) }
    alone = values.sum { |value| (value - mean)**2 }
    error = Math.sqrt(alone / 29 / 30 * [products.sum / alone, 1].max)
    found = described_class::Means.paired(Polars::Series.new(values), *pair.transpose.map { |who| Polars::Series.new(who) })
    expect(found[:high] - found[:estimate]).to be_within(1e-9).of(described_class::Student.quantile(pair.map(&:last).uniq.size - 1.0) * error)
  end

  it "compares shares of groups that overlap by what they do not share" do
    shares = described_class::Shares
    apart = shares.overlapping([56, 70], [48, 80], [0, 0])
    expect(apart.slice(:estimate, :low, :high)).to match(shares.difference(56, 70, 48, 80).transform_values { |value| be_within(1e-12).of(value) })
    expect(apart[:p_value]).to be_within(1e-12).of(shares.p_value(56, 70, 48, 80))
    expect(shares.overlapping([0, 0], [0, 0], [7, 30])).to include(estimate: 0.0, low: 0.0, high: 0.0, p_value: 1.0)
    random = Random.new(6)
    draw = ->(size) { [Array.new(size) { random.rand < 0.3 }.count(true), size] }
    found = Array.new(600) { shares.overlapping(draw.call(80), draw.call(120), draw.call(400)) }
    expect(found.count { |one| !0.between?(one[:low], one[:high]) }).to be_between(15, 46)
    expect(found.count { |one| one[:p_value] <= 0.05 }).to be_between(15, 46)
  end

  it "says how far sets go together, with its interval" do
    lift = described_class::Lift
    # 60 of 1,000 in both of 200 and 200: 1.5 times 40; the variance of its logarithm (1000/60 - 5 - 5 + 2 * 1.5 - 1) / 1000.
    expect(lift.of(60, [200, 200], [60], 1000)).to match(estimate: be_within(1e-12).of(1.5), low: be_within(1e-9).of(1.5 * Math.exp(-1.959963984540054 * Math.sqrt((8 + (2 / 3.0)) / 1000))),
                                                         high: be_within(1e-9).of(1.5 * Math.exp(1.959963984540054 * Math.sqrt((8 + (2 / 3.0)) / 1000))), p_value: be < 0.0001)
    expect(lift.of(0, [200, 200], [0], 1000)).to match(estimate: 0.0, low: 0.0, high: be_within(1e-9).of(3.6888794541 / 40), p_value: be < 1e-16)
    expect(lift.of(3, [10, 10], [3], 40)).to include(low: nil, p_value: 1.0)
    expect(lift.of(0, [0, 10], [0], 100)).to be_nil
    random = Random.new(2)
    found = Array.new(600) do
      people = Array.new(500) { [random.rand < 0.3, random.rand < 0.2] }
      both = people.count { |in_one, in_other| in_one && in_other }
      lift.of(both, [people.count(&:first), people.count(&:last)], [both], 500)
    end
    expect(found.count { |one| !1.between?(one[:low], one[:high]) }).to be_between(15, 46)
  end

  # R 4.2: friedman.test(rbind(c(9, 7, 7), c(3, 2, 5), c(8, 6, 6), c(5, 4, 1), c(7, 3, 4))) and pchisq(x, df, lower.tail = FALSE).
  it "knows the chi-square distribution and Friedman's test as R does" do
    chi = described_class::ChiSquare
    { [3.84, 1] => 0.0500435212487052, [0.5, 3] => 0.918891411654676, [12, 4] => 0.0173512652366645, [30, 5] => 1.47485810384431e-05, [100, 80] => 0.064570368921133 }
      .each { |(value, degrees), told| expect(chi.upper(value, degrees)).to be_within(told * 1e-9).of(told) }
    expect(chi.friedman([[9, 7, 7], [3, 2, 5], [8, 6, 6], [5, 4, 1], [7, 3, 4]])).to be_within(1e-9).of(5.7777777777778)
    expect(chi.friedman([[1, 1, 1], [2, 2, 2]])).to eq(0.0)
    expect(chi.upper(0, 3)).to eq(1.0)
    # Two estimates 0 and 2 of variance 1: weights alike, Q = 2.
    expect(chi.heterogeneity([[0.0, 1.0], [2.0, 1.0]])).to be_within(1e-12).of(chi.upper(2.0, 1))
    expect(chi.heterogeneity([[0.0, 1.0], [2.0, nil]])).to be_nil
  end
end
