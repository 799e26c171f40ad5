# frozen_string_literal: true

# Worked by hand. Ada stays away for 1 day and for 3, Bo for 2, and Cleo for 3 so far. So S goes from 1 to 3/4, 2/4 and
# 1/4, and B, see the class, from 0 to 1/12, 1/4 and 3/4. To −log S, people add:
#
#                1 day                2 days              3 days
#   Ada    1/3 − 1/12 − 1/12    1/3 − 1/12 − 1/4    1/3 − 1/12 + 1 − 3/4
#   Bo          −1/12              1/2 − 1/4            1/2 − 1/4
#   Cleo        −1/12                −1/4                 −3/4
#
# R 4.2 says the same: survfit(Surv(c(1, 3, 2, 3), c(1, 1, 1, 0)) ~ 1, cluster = c(1, 1, 2, 3)) with survival 3.5.
RSpec.describe Estrel::ClusteredSurvival do
  # A duration is twice its days, and one more where it has ended.
  let(:pairs) { { [3, 3] => 1, [3, 7] => 1, [7, 7] => 1, [5, 5] => 1, [6, 6] => 1 } }
  let(:estimate) { described_class.new({ 1 => 1, 2 => 1, 3 => 1 }, { 3 => 1 }, pairs) }
  let(:added) { [[1 / 6r, -1 / 12r, -1 / 12r], [0, 1 / 4r, -1 / 4r], [1 / 2r, 1 / 4r, -3 / 4r]] }

  def squared(people) = people.sum { |one| one * one }

  it "has the variance of what people add, not of what durations do" do
    expect(estimate.points.map(&:survival)).to eq([0.75, 0.5, 0.25])
    errors = added.zip([0.75, 0.5, 0.25]).map { |people, survival| survival * Math.sqrt(squared(people)) }
    estimate.points.zip(errors) { |point, error| expect(point.error).to be_within(1e-12).of(error) }
    # Of as many people with one duration each, as Greenwood has it.
    alone = described_class.new({ 1 => 1, 2 => 1, 3 => 1 }, { 3 => 1 }, { [3, 3] => 1, [7, 7] => 1, [5, 5] => 1, [6, 6] => 1 })
    expect(alone.points.first.error).to be_within(1e-12).of(0.75 * Math.sqrt(squared([1 / 4r, *([-1 / 12r] * 3)])))
  end

  it "gives intervals around the logarithm of −log S" do
    point = estimate.points[1]
    spread = Math.exp(Estrel::Statistics::Normal::Z * Math.sqrt(1 / 8.0) / Math.log(2))
    expect([point.low, point.high]).to match([be_within(1e-12).of(0.5**spread), be_within(1e-12).of(0.5**(1 / spread))])
  end

  it "tells the chance to end within a time by how people differ at both times" do
    # What lasts 1 day ends by the second in a third of cases.
    found = estimate.ends_within(1, 1)
    both = added[0].zip(added[1]).sum { |one, other| one * other }
    error = Math.sqrt(squared(added[0]) + squared(added[1]) - (2 * both))
    spread = Math.exp(Estrel::Statistics::Normal::Z * error / -Math.log(2 / 3.0))
    expect(found[:estimate]).to be_within(1e-12).of(1 / 3.0)
    expect(found[:low]).to be_within(1e-12).of(1 - ((2 / 3.0)**(1 / spread)))
    expect(found[:high]).to be_within(1e-12).of(1 - ((2 / 3.0)**spread))
    expect(estimate.ends_within(0, 0)).to eq({ estimate: 0.0, low: 0.0, high: 1 - (0.05**(1 / 4.0)) })
    expect(estimate.ends_within(3, 1)).to be_nil
  end
end
