# frozen_string_literal: true

RSpec.describe Estrel::Visits do
  it "begins a new visit after more than the gap, not after exactly the gap" do
    visits = described_class.of([0, 30, 60, 91, 91, 200], 30)
    expect(visits.map { |visit| [visit.first, visit.last, visit.count, visit.duration, visit.positions] })
      .to eq([[0, 60, 3, 60, 0..2], [91, 91, 2, 0, 3..4], [200, 200, 1, 0, 5..5]])
    expect(described_class.of([], 30)).to eq([])
  end
end
