# frozen_string_literal: true

RSpec.describe Estrel::KaplanMeier do
  def estimate(text)
    ended, censored = text.split.partition { |time| !time.end_with?("+") }
    described_class.new(ended.map(&:to_i).tally, censored.map(&:to_i).tally)
  end

  # Weeks of remission under 6-mercaptopurine: E. J. Freireich et al., Blood 21 (1963), 699–716. Estimates and standard
  # errors as printed in D. R. Cox and D. Oakes, Analysis of Survival Data (1984), and in many a textbook since.
  let(:remission) { estimate("6 6 6 6+ 7 9+ 10 10+ 11+ 13 16 17+ 19+ 20+ 22 23 25+ 32+ 32+ 34+ 35+") }

  it "agrees with the published estimates, standard errors and log-log intervals" do
    published = { 6 => [0.857, 0.0764, 0.620, 0.952], 7 => [0.807, 0.0869, 0.563, 0.923], 10 => [0.753, 0.0963, 0.503, 0.889],
                  13 => [0.690, 0.1068, 0.432, 0.849], 16 => [0.627, 0.1141, 0.368, 0.805], 22 => [0.538, 0.1282, 0.268, 0.747],
                  23 => [0.448, 0.1346, 0.188, 0.680] }
    published.each do |time, (survival, error, low, high)|
      point = remission.at(time)
      expect([point.t, point.survival.round(3), point.error.round(4), point.low.round(3), point.high.round(3)])
        .to eq([time, survival, error, low, high])
    end
    expect(remission.at(5)).to be_nil
    expect(remission.survival(35)).to eq(remission.survival(23))
    expect(remission.points.map(&:at_risk).first(4)).to eq([21, 17, 16, 15])
  end

  it "agrees with those of a second set, where the last but one time ends half of who is left" do
    # Weeks in complete remission with maintenance: R. G. Miller, Survival Analysis (1981), page 49.
    found = estimate("9 13 13+ 18 23 28+ 31 34 45+ 48 161+")
    expect([9, 13, 18, 23, 31, 34, 48].map { |time| found.survival(time).round(3) }).to eq([0.909, 0.818, 0.716, 0.614, 0.491, 0.368, 0.184])
    expect([9, 13, 18, 23, 31, 34, 48].map { |time| found.at(time).error.round(4) }).to eq([0.0867, 0.1163, 0.1397, 0.1526, 0.1642, 0.1627, 0.1535])
  end

  it "gives the chance that what has lasted ends within a time, and none where nothing is known" do
    expect(remission.ends_within(7, 6)).to be_within(1e-12).of(1 - ((14.0 / 15) * (11.0 / 12)))
    expect(remission.ends_within(30, 10)).to be_nil
    expect(remission.ends_within(35, 0)).to be_nil
    nothing = described_class.new({}, {})
    expect([nothing.survival(3), nothing.total, nothing.longest, nothing.ends_within(0, 1)]).to eq([1.0, 0, nil, nil])
    over = described_class.new({ 2 => 4 }, {}).at(2)
    expect([over.survival, over.error, over.low]).to eq([0.0, nil, nil])
  end

  # @param people [Array<Array<Integer>>] of each the kinds of her durations, see {ClusteredSurvival}
  def clustered(people)
    ended, censored = people.flatten.partition(&:odd?).map { |kinds| kinds.map { |kind| kind / 2 }.tally }
    each = people.flat_map { |kinds| kinds.tally.sort.then { |found| found.product(found).select { |(one, _), (other, _)| one <= other } } }
    Estrel::ClusteredSurvival.new(ended, censored, each.each_with_object(Hash.new(0)) { |((one, n), (other, m)), sums| sums[[one, other]] += n * m })
  end

  # The n-th of sixty people has 1 + n mod 4 gaps, of which the last is not over. R 4.2, survival:
  # survfit(Surv(days, over) ~ 1, cluster = person, conf.type = "log-log") at 3, 8, 14 and 20 days; and of those gaps
  # that lasted longer than 5 days, Surv(5, days, over), at 15 days.
  it "knows that one person has several, as the robust variance of R does" do
    survival = clustered((1..60).map do |person|
      lengths = (1..(1 + (person % 4))).map { |gap| 1 + (((person * 7) + (gap * (1 + (person % 3)))) % 23) }
      [*lengths[..-2].map { |length| (2 * length) + 1 }, 2 * lengths.last]
    end)
    { 3 => [0.91911231884058, 0.021809146872305, 0.86381549616845, 0.95256495574935], 8 => [0.79495713636529, 0.038259263926134, 0.70741568902226, 0.85888320293551],
      14 => [0.59303572365026, 0.048622383947007, 0.49132584303166, 0.68101815916203], 20 => [0.32586550220096, 0.041169265382920, 0.24700184212526, 0.40694078912786] }.each do |days, figures|
      point = survival.points.reverse.find { |one| one.t <= days }
      figures.zip([point.survival, point.error, point.low, point.high]).each { |expected, found| expect(found).to be_within(1e-12).of(expected) }
    end
    expect(survival.ends_within(5, 10)).to match(estimate: be_within(1e-12).of(0.37786055928655), low: be_within(1e-12).of(0.28630351577037), high: be_within(1e-12).of(0.48714827082196))
    # One person alone says nothing of how people differ, nor do people all alike.
    [[[3, 5, 9, 14]], [[3, 5, 14]] * 2].each { |people| expect(clustered(people).ends_within(0, 3)).to include(low: nil, high: nil) }
  end

  it "says the least and the most that nothing having ended leaves open" do
    found = described_class.new({ 9 => 1 }, { 2 => 3, 9 => 20 })
    expect(found.at(2)).to have_attributes(survival: 1.0, low: be_within(1e-12).of(0.05**(1 / 24.0)), high: 1.0)
    expect(clustered([[4], [4], [4, 19], *[[18]] * 20]).ends_within(2, 5)).to match(estimate: 0.0, low: 0.0, high: be_within(1e-12).of(1 - (0.05**(1 / 21.0))))
    expect(clustered([]).ends_within(0, 1)).to be_nil
  end
end
