# frozen_string_literal: true

# Worked by hand. Ada rides on 1, 4 and 15 May, so she stays away for 3 days, for 11, and, when 20 May ends, for 5 so
# far. Bo rides on 10 May and stays away for 10 days so far. People are dormant from 7 inactive days on.
RSpec.describe Estrel::Lifecycle::Durations do
  let(:rule_set) { Estrel::Lifecycle::RuleSet.new(activity: ["ride"], new_for: 5, active_within: 7, churned_after: 20) }
  let(:people) { { 1 => ride(1, 4, 15), 2 => ride(10) } }
  let(:last) { Date.new(2026, 5, 20) }

  def ride(*days) = { events: days.map { |day| { type: "ride", at: Time.utc(2026, 5, day, 12) } }, attributes: [] }

  # Gives durations and the grouping that holds everybody to the block.
  def durations(people = self.people, last: self.last)
    with_ledger(Population.new(people, event_types: { "ride" => {} })) do |generation|
      lifecycle = Estrel::Lifecycle.new(generation, rule_set)
      yield described_class.new(lifecycle, (last - Date.new(1970, 1, 1)).to_i), Estrel::Lifecycle::Grouping.everybody(generation)
    end
  end

  it "goes from each day of activity to the next, or to the last day there is" do
    durations do |found, everybody|
      counted = found.of(everybody)
      # Twice the days, and one more where the duration has ended.
      expect(counted[:kinds].sort.to_h).to eq({ 7 => 1, 10 => 1, 20 => 1, 23 => 1 })
      expect(counted[:pairs].values.sum).to eq(6 + 1) # of Ada's three, in order; of Bo's one
    end
    durations(last: Date.new(2026, 5, 14)) do |found, everybody|
      expect(found.of(everybody)[:kinds].sort.to_h).to eq({ 7 => 1, 8 => 1, 20 => 1 })
    end
  end

  it "estimates how long they last, with a variance of people rather than durations" do
    durations do |found, everybody|
      estimate = described_class.estimates(found.of(everybody), 1).first
      # Of four, one has ended after 3 days. Two have not ended yet, and the last one ends after 11.
      expect([2, 3, 10, 11].map { |days| estimate.whole.survival(days) }).to eq([1.0, 0.75, 0.75, 0.0])
      # To -log S(3), the duration of 3 days adds 1/3 - 1/12 and each other one -1/12: 1/12 for Ada and -1/12 for Bo.
      expect(estimate.points.find { |point| point.t == 3 }.error).to be_within(1e-12).of(0.75 * Math.sqrt(2 / 144.0))
    end
  end

  it "separates absences that lead to dormancy by season and by earlier lapses" do
    durations({ 1 => ride(1, 4, 15, 31), 2 => ride(10) }, last: Date.new(2026, 6, 5)) do |found, _|
      by_season = described_class.estimates(found.by("season"), 4)
      expect(by_season.map { |estimate| estimate.whole.total }).to eq([0, 3, 0, 0])
      first, second, *rest = described_class.estimates(found.by("lapses"), 4)
      # Ada's 11 days and Bo's 26 so far came first; her 16 days came after one lapse; the 5 since then are too few.
      expect([first.whole.total, first.whole.survival(11), second.whole.total, second.whole.survival(16)]).to eq([2, 0.5, 1, 0.0])
      expect(rest.sum { |estimate| estimate.whole.total }).to eq(0)
    end
  end

  it "counts who has ever been away for longer than so many days" do
    durations do |found, everybody|
      longer = described_class.at_risk(found.longest(everybody), 1).first
      expect(longer.values_at(0, 9, 10, 11)).to eq([2, 2, 1, 0])
    end
  end

  it "counts two durations of one length once each, and squares them for pairs" do
    durations({ 1 => ride(1, 4, 7, 10) }, last: Date.new(2026, 5, 10)) do |found, everybody|
      counted = found.of(everybody)
      expect(counted[:kinds].sort.to_h).to eq({ 0 => 1, 7 => 3 })
      expect(counted[:pairs].values.sort).to eq([1, 3, 9])
    end
  end
end
