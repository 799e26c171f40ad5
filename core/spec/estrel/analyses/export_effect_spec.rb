# frozen_string_literal: true

RSpec.describe Estrel::Analyses::ExportEffect do
  # Forty people who rode on 1 May; of the first thirty, who are exported, eighteen ride again on 12 May, of the other
  # ten one. Whoever rides again pays 2 for each ride.
  def people
    (1..40).to_h do |id|
      again = id <= 18 || id == 31
      rides = [Time.utc(2026, 5, 1, 10), *(again ? [Time.utc(2026, 5, 12, 10)] : [])]
      [id, { events: rides.map { |at| { type: "ride_ended", at: at, price: 2.0 } }, attributes: [] }]
    end
  end

  def ids(range) = Polars::Series.new("profile_id", range.to_a, dtype: Polars::Int64)

  def effect(metric, exported: 1..30, held: 31..40, as_of: Date.new(2026, 6, 1), planned: nil, **options)
    with_ledger(Population.new(people, event_types: { "ride_ended" => { "price" => "number" } })) do |ledger|
      rules = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 20)
      run = Estrel::Analyses::Stored::Run.new(as_of: Date.new(2026, 5, 10), exported: ids(exported), holdout: ids(held), planned: planned)
      analysis("export-effect", { run: 1, metric: metric, **options }, ledger, as_of: as_of, rules: rules, stored: AskedAnalyses::Stored.new({}, nil, run)).over
    end
  end

  def rode(...) = effect({ event: "ride_ended", measure: "people" }, ...)

  def paid(...) = effect({ event: "ride_ended", measure: "sum", property: "price" }, ...)

  it "compares those exported with the holdout, by what they did" do
    answer = rode
    found = answer.picture
    expect(found[:groups].map { |group| group.slice(:people, :hits) }).to eq([{ people: 30, hits: 18 }, { people: 10, hits: 1 }])
    expect(found).to include(from: Date.new(2026, 5, 11), to: Date.new(2026, 5, 24), complete: true)
    expect(found[:difference]).to eq(Estrel::Statistics::Shares.difference(18, 30, 1, 10))
    # Pooled share 19/40, standard error sqrt(0.475 * 0.525 * (1/30 + 1/10)) = 0.18235, z = 2.742.
    expect(found[:p_value]).to be_within(0.0001).of(0.0061)
    expect(answer.finding).to start_with("Higher than in the control group: 60.0% of those exported ended a ride, 10.0% of the holdout (difference +")
  end

  it "takes no account of what was done before, or after the days, or is not known yet" do
    early = rode(as_of: Date.new(2026, 5, 11))
    expect(early.picture).to include(complete: false)
    expect(early.finding).to eq("No verdict before the end of 24 May 2026. Until then: 0.0% of those exported ended a ride, 0.0% of the holdout.")
    expect(early.picture.values_at(:difference, :relative, :p_value)).to eq([nil, nil, nil])
    expect(early.picture[:groups].map { |group| group[:hits] }).to eq([0, 0])
  end

  it "measures sums per person, and who came back, be they gone again since" do
    sum = paid.picture
    expect(sum[:groups].map { |group| group[:mean] }).to eq([1.2, 0.2])
    # Variances 4 * 0.6 * 0.4 * 30 / 29 and 4 * 0.1 * 0.9 * 10 / 9.
    expect(sum[:groups].map { |group| group[:variance] }).to match([be_within(1e-9).of(0.96 * 30 / 29), be_within(1e-9).of(0.4)])
    expect(sum[:relative][:estimate]).to be_within(1e-9).of(5.0)
    back = effect(nil).picture
    expect(back[:groups].map { |group| group.slice(:people, :hits) }).to eq([{ people: 30, hits: 18 }, { people: 10, hits: 1 }])
  end

  # Ten of forty: of 10% planned, z = 6 / sqrt(3.6) = 3.16, p = 0.0016; of 8%, z = 6.8 / sqrt(2.944) = 3.96, p = 0.00007.
  it "gives no verdict where the split is not the one that was planned" do
    expect(rode(planned: 0.25).finding).to start_with("Higher than")
    expect(rode(planned: 0.1).finding).to start_with("Higher than")
    amiss = rode(planned: 0.08)
    expect(amiss.finding).to match(/\ANo verdict: 25\.0% of the people are in the holdout, 8\.0% were meant to be, and that is not chance\..*60\.0% of those exported ended a ride, 10\.0% of the holdout\.\z/)
    expect(amiss.picture.values_at(:difference, :p_value)).to eq([nil, nil])
  end

  it "says what it cannot tell, and how many it would take" do
    alike = rode(exported: 19..30, held: 32..40)
    expect(alike.finding).to start_with("Cannot tell: 0.0% of those exported ended a ride, 0.0% of the holdout")
    expect(alike.picture[:needed]).to be > 300
    # Of four each two paid and one paid 2: means 1 and 0.5, variances 4/3 and 1; 10% of 0.5 is 0.05:
    # 2.8016² (1 + 4/3) / 0.0025 = 7325.6, so 7326 in each group.
    sums = paid(exported: 17..20, held: 31..34)
    expect(sums.picture).to include(size: 0.1, needed: 14_652)
    expect(sums.finding).to match(/among the holdout \(difference −\d\.\d\d to \+\d\.\d\d, 95% interval\)/)
    expect(sums.finding).to end_with("To tell a difference of 10% takes about 14,652 people in all, in the same proportion, 14,644 more than here (power 80%, two-sided level 5%).")
    expect(effect(nil, held: [41]).finding).to eq("Nobody in the holdout was dormant or churned, so nobody could come back.")
    expect(rode(held: []).finding).to eq("Nobody is in the holdout to measure against.")
    expect(paid(held: [31]).finding).to eq("There are too few people to compare.")
    expect { effect({ event: "ride_ended", measure: "sum", property: "dock" }) }.to raise_error(Estrel::Analyses::Invalid, /no property "dock"/)
    expect { effect({ event: "ride_ended", measure: "fame" }) }.to raise_error(Estrel::Analyses::Invalid, /"Measure" must be one of people, times, sum/)
    expect { rode(as_of: Date.new(2026, 5, 9)) }.to raise_error(Estrel::Analyses::Invalid, /look at a later date/)
  end
end
