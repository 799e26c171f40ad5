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

  # The n-th of sixty people has 1 + n mod 4 gaps, of which the last is not over. R 4.2, survival: the standard errors of
  # survfit(Surv(days, over) ~ 1, cluster = person), and without cluster, at 3, 8, 14 and 20 days.
  it "knows that one person has several, as the robust variance of R does" do
    gaps = (1..60).to_h { |person| [person, (1..(1 + (person % 4))).map { |gap| 1 + (((person * 7) + (gap * (1 + (person % 3)))) % 23) }] }
    each = gaps.values.map { |lengths| [lengths[..-2].tally, lengths.last(1).tally] }
    survival = Estrel::ClusteredSurvival.new(each)
    { 3 => [0.919112318841, 0.0218091468723], 8 => [0.794957136365, 0.0382592639261], 14 => [0.593035723650, 0.0486223839470], 20 => [0.325865502201, 0.0411692653829] }.each do |days, (estimate, robust)|
      point = survival.points.reverse.find { |one| one.t <= days }
      expect(point.survival).to be_within(1e-9).of(estimate)
      # On the scale of log(-log S) the band is as wide as that of an error of S log S times its own.
      width = Math.log(Math.log(point.low) / Math.log(point.high)) / 2
      expect(width * estimate * -Math.log(estimate) / Estrel::Statistics::Student.quantile(59.0)).to be_within(robust * 0.06).of(robust)
    end
    expect(survival.whole.points.map(&:survival)).to eq(survival.points.map(&:survival))
  end

  it "says the least and the most that nothing having ended leaves open" do
    found = described_class.new({ 9 => 1 }, { 2 => 3, 9 => 20 })
    expect(found.at(2)).to have_attributes(survival: 1.0, low: be_within(1e-12).of(0.05**(1 / 24.0)), high: 1.0)
    expect(Estrel::ClusteredSurvival.new([[{}, { 2 => 3 }], [{ 9 => 1 }, { 9 => 20 }]]).ends_within(2, 5)).to match(estimate: 0.0, low: 0.0, high: be_within(1e-12).of(1 - (0.05**(1 / 21.0))))
    expect(Estrel::ClusteredSurvival.new([]).ends_within(0, 1)).to be_nil
  end
end
