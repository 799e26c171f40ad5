# frozen_string_literal: true

RSpec.describe Estrel::Handover::Effect do
  # Forty people who rode on 1 May; of the first thirty, who are handed over, eighteen ride again on 12 May, of the other
  # ten one. Whoever rides again pays 2 for each ride.
  def people
    (1..40).to_h do |id|
      again = id <= 18 || id == 31
      rides = [Time.utc(2026, 5, 1, 10), *(again ? [Time.utc(2026, 5, 12, 10)] : [])]
      [id, { events: rides.map { |at| { type: "ride_ended", at: at, price: 2.0 } }, attributes: [] }]
    end
  end

  def ids(range) = Polars::Series.new("profile_id", range.to_a, dtype: Polars::Int64)

  def effect(kind, handed: 1..30, held: 31..40, as_of: Date.new(2026, 6, 1), **options)
    with_ledger(Population.new(people, event_types: { "ride_ended" => { "price" => "number" } })) do |ledger|
      policy = Estrel::Lifecycle::Policy.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 20)
      outcome = Estrel::Handover::Outcome.new(kind, days: 14, catalogue: ledger.catalogue, **options)
      evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: as_of, policy: policy)
      described_class.new(evaluator, Date.new(2026, 5, 10), outcome, handed_over: ids(handed), held_out: ids(held)).to_h
    end
  end

  it "compares those handed over with those held out, by what they did" do
    found = effect("did", event: "ride_ended")
    expect(found[:groups].map { |group| group.slice(:people, :hits) }).to eq([{ people: 30, hits: 18 }, { people: 10, hits: 1 }])
    expect(found).to include(from: Date.new(2026, 5, 11), to: Date.new(2026, 5, 24), complete: true)
    expect(found[:difference]).to eq(Estrel::Statistics.difference(18, 30, 1, 10))
    # Pooled share 19/40, standard error sqrt(0.475 * 0.525 * (1/30 + 1/10)) = 0.18235, z = 2.742.
    expect(found[:p_value]).to be_within(0.0001).of(0.0061)
    expect(found[:verdict]).to start_with("It did good: 60.0 % of those handed over did ride_ended, 10.0 % of those held out (difference +")
  end

  it "takes no account of what was done before, or after the days, or is not known yet" do
    expect(effect("did", event: "ride_ended", as_of: Date.new(2026, 5, 11))).to include(complete: false, verdict: match(/Cannot tell.* are not over/))
    expect(effect("did", event: "ride_ended", as_of: Date.new(2026, 5, 11))[:groups].map { |group| group[:hits] }).to eq([0, 0])
  end

  it "measures sums per person, and who came back" do
    sum = effect("sum", event: "ride_ended", property: "price")
    expect(sum[:groups].map { |group| group[:mean] }).to eq([1.2, 0.2])
    # Variances 4 * 0.6 * 0.4 * 30 / 29 and 4 * 0.1 * 0.9 * 10 / 9.
    expect(sum[:groups].map { |group| group[:variance] }).to match([be_within(1e-9).of(0.96 * 30 / 29), be_within(1e-9).of(0.4)])
    expect(sum[:relative][:estimate]).to be_within(1e-9).of(5.0)
    back = effect("back", as_of: Date.new(2026, 5, 14))
    expect(back[:groups].map { |group| group.slice(:people, :hits) }).to eq([{ people: 30, hits: 18 }, { people: 10, hits: 1 }])
  end

  it "says what it cannot tell, and how many it would take" do
    alike = effect("did", event: "ride_ended", handed: 19..30, held: 32..40)
    expect(alike[:verdict]).to start_with("Cannot tell: 0.0 % of those handed over did ride_ended, 0.0 % of those held out")
    expect(alike[:needed]).to be > 300
    # Of four each two paid and one paid 2: means 1 and 0.5, variances 4/3 and 1; 10 % of 0.5 is 0.05:
    # 2.8016² (1 + 4/3) / 0.0025 = 7325.6, so 7326 in each group.
    sums = effect("sum", event: "ride_ended", property: "price", handed: 17..20, held: 31..34)
    expect(sums).to include(size: 0.1, needed: 14_652)
    expect(sums[:verdict]).to match(/among those held out \(difference −\d\.\d\d to \+\d\.\d\d, 95 % interval\)/)
    expect(sums[:verdict]).to end_with("To tell a difference of 10 % takes about 14,652 people in all, in the same proportion, 14,644 more than here.")
    expect(effect("did", event: "ride_ended", held: [])[:verdict]).to eq("There is nobody held out to measure against.")
    expect(effect("sum", event: "ride_ended", property: "price", held: [31])[:verdict]).to eq("There are too few people to compare.")
    expect { effect("sum", event: "ride_ended", property: "dock") }.to raise_error(Estrel::Handover::Invalid, /no property "dock"/)
    expect { effect("fame") }.to raise_error(Estrel::Handover::Invalid, /one of did, sum, back/)
  end
end
