# frozen_string_literal: true

# Worked by hand. The person buys a pass on 20 May; earlier rides decide which people are comparable.
RSpec.describe Estrel::Analyses::BeforeAfter::Matching do
  let(:rule_set) { Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 30) }

  def on(type, *days) = days.map { |day| { type: type, at: Time.utc(2026, 5, 1, 12) + ((day - 1) * 86_400) } }

  # The matching attributes on day 0 of a person with rides on these days.
  def described(*rides)
    population = Population.new({ 1 => { events: on("ride_ended", *rides) + on("pass_bought", 20), attributes: [] } }, event_types: { "ride_ended" => {}, "pass_bought" => {} })
    question = { first: { event: "pass_bought" }, from: "2026-05-20", to: "2026-05-20", metric: { event: "ride_ended" }, before: 10, after: 3 }
    with_ledger(population) do |ledger|
      analysis("before-after", question, ledger, as_of: Date.new(2026, 5, 31), rules: rule_set).collect.first[:alike].rows(named: true).first
    end
  end

  it "describes people by their state on the day before and their events in the preceding days" do
    # Known for 19 days, rounded up to 32, which is 2 to the 5th. The last earlier ride was 2 days before 19 May.
    expect(described(1, 17)).to include("active" => false, "state" => "active", "idle" => 2, "about" => 1, "known" => 5)
    # A ride on day 0 does not count as an earlier ride, and makes the person active on that day.
    expect(described(1, 17, 20)).to include("active" => true, "idle" => 2, "about" => 1)
    # Dormant after five inactive days: the fifth is the day before day 0.
    expect([described(1, 15)["state"], described(1, 14)["state"]]).to eq(%w[active dormant])
  end

  it "matches small counts exactly, and larger counts in classes that grow by a quarter" do
    # Eight inactive days are a class of their own; up to ten are the first class above, up to 12.5 the second.
    expect([11, 10, 9, 8, 7].map { |day| described(1, day)["idle"] }).to eq([8, 9, 9, 10, 10])
    # The same of rides in the ten days before, from the 10th to the 19th.
    expect([8, 9, 10].map { |count| described(1, *(10...(10 + count)))["about"] }).to eq([8, 9, 9])
  end

  it "rounds the days since first seen up to a power of two" do
    # Sixteen days are 2 to the 4th; one more begins the next class.
    expect([4, 3, 2].map { |day| described(day, 17)["known"] }).to eq([4, 5, 5])
  end

  it "ranks comparable people by the shuffled order of the day" do
    rows = [[1, "new", 30], [2, "new", 10], [3, "active", 20], [4, "new", 20]].map do |id, state, order|
      { "profile_id" => id, "day" => 1, "active" => true, "state" => state, "idle" => 0, "about" => 1, "known" => 2, "order" => order }
    end
    placed = described_class.placed(Polars::DataFrame.new(rows)).select(%w[profile_id place]).rows.to_h
    expect(placed).to eq({ 2 => 1, 4 => 2, 1 => 3, 3 => 1 })
  end

  it "searches 2,000 people first, then eight times as many in each round" do
    all = 2**32
    expect(described_class.stretches(1_500)).to eq([0...all])
    expect(described_class.stretches(32_000)).to eq([0...(all / 16), (all / 16)...(all / 2), (all / 2)...all])
  end
end
