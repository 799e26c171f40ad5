# frozen_string_literal: true

RSpec.describe Estrel::Analyses::HoldoutSize do
  # Two hundred rode on 1 May, the last twenty on the 16th as well; sixty again on 20 May, for 2 or, every third of them, 50.
  def asked(day: 31, active: ["ride_ended"], **question)
    people = (1..200).to_h do |id|
      rides = [{ type: "ride_ended", at: Time.utc(2026, 5, 1, 10), price: 1.0 }]
      rides << { type: "ride_ended", at: Time.utc(2026, 5, 20, 10), price: (id % 3).zero? ? 50.0 : 2.0 } if id <= 60
      rides << { type: "ride_ended", at: Time.utc(2026, 5, 16, 10), price: 0.0 } if id > 180
      [id, { events: rides, attributes: [] }]
    end
    with_ledger(Population.new(people, event_types: { "ride_ended" => { "price" => "number" } })) do |ledger|
      everybody = Estrel::Audience::Definition.parse({ "all" => [] }, catalogue: ledger.catalogue)
      rules = active && Estrel::Lifecycle::RuleSet.new(activity: active, new_for: 1, active_within: 5, churned_after: 20)
      analysis("holdout-size", { audience: 1, share: 0.1, people: 1_000, **question }, ledger, as_of: Date.new(2026, 5, day), rules: rules, stored: AskedAnalyses::Stored.new({ 1 => everybody }, nil, nil), parts: 2).over
    end
  end

  it "says what a holdout can show, and how many people and runs it takes" do
    answer = asked(every: "week")
    found = answer.picture
    # From 17 to 31 May sixty of the 180 who were dormant came back; twenty could not. Of a thousand nine hundred can.
    expect(found[:usual]).to match(people: 180, some: 60, mean: be_within(1e-12).of(1 / 3.0))
    takes = ->(size) { Estrel::Statistics::SampleSize.of_shares(1 / 3.0, (1 / 3.0) + size, 9.0) }
    expect(found[:needed]).to eq((takes.call(0.02) / 0.9).ceil)
    expect(takes.call(found[:smallest])).to be <= 900
    expect(takes.call(found[:smallest] - 0.001)).to be > 900
    expect(found[:runs]).to eq((found[:needed] / 1_000.0).ceil)
    expect(answer.finding).to match(/\ABaseline: 33\.3% were reactivated within 14 days \(180 people in “Audience 1” on 16 May 2026, dormant or churned\)\. A holdout of 10% of 1,000 people, of whom about 900 would be dormant or churned, detects a difference of \d+\.\d pp or more\. Detecting 2\.0 pp takes about [\d,]+ people, (\d+) runs of this size, \1 weeks \(80% power/)
    expect(asked(size: 0.5).finding).to end_with("That is enough to detect 50.0 pp.")
  end

  it "measures sums, of which very large ones are cut" do
    answer = asked(metric: { event: "ride_ended", measure: "sum", property: "price" }, share: 0.5)
    # Of sixty who paid the 95th percentile is 50: forty times 2 and twenty times 50.
    expect(answer.picture[:usual]).to match(people: 200, some: 60, mean: be_within(1e-9).of(5.4))
    expect(answer.finding).to match(/total price \(ride ended\) per person 5\.40 within 14 days .* A holdout of 50% of 1,000 people detects a difference of \d+% of the control mean or more\./)
  end

  # Of 200 who rode on 1 May or later sixty were active from 17 to 31 May; a tenth of them held back shows more than 5 points, half of them less than 20.
  it "says how large a share of everybody it takes" do
    all = ->(**more) { asked(audience: nil, people: nil, metric: { lifecycle: "was_active" }, **more) }
    takes = ->(size, share) { Estrel::Statistics::SampleSize.of_shares(0.3, 0.3 + size, (1 - share) / share) }
    shares = (1..500).map { |permille| permille / 1_000.0 }
    expect(takes.call(0.05, 0.5)).to be > 200
    expect(all.call(size: 0.05).finding).to match(/\ABaseline: 30\.0% were active within 14 days \(200 people known on 16 May 2026\)\. A holdout of 10% of 200 people detects a difference of \d+\.\d pp or more\. Not enough people to detect 5\.0 pp/)
    needed = shares.find { |share| takes.call(0.25, share) <= 200 }
    expect(all.call(size: 0.25).finding).to include("For 25.0 points it takes #{Estrel::English.percent(needed)} (power 80%").or include("For 25.0 points it takes #{Estrel::English.percent(needed - 0.001)} (power 80%")
    expect(all.call(size: 0.6).finding).to end_with("That is less than the 60.0 points that would matter.")
  end

  it "warns where it can show nothing, and where nothing is known" do
    { { people: 3 } => /A holdout of 10% of 3 people, of whom about 3 would be dormant or churned, is too small to detect any effect\./, { share: 0 } => /\AWithout a holdout/, { share: 1 } => /\ANo one would be exported/, { people: 0 } => /too small to detect/,
      { days: 8 } => /\ANot enough data to size the holdout: none of 140 people .* were reactivated/, { day: 16 } => /only 0 people/ }
      .each { |question, said| expect(asked(**question).finding).to match(said), question.to_s }
    [nil, { lifecycle: "was_active" }].each { |metric| expect { asked(active: nil, metric: metric) }.to raise_error(Estrel::Analyses::Analysis::NoRules, /no event type counts as activity/) }
    expect(asked(active: nil, metric: { event: "ride_ended" }).finding).to include("ended a ride within 14 days")
    expect { asked(audience: 9) }.to raise_error(Estrel::Analyses::Invalid, /audience 9 does not exist/)
  end
end
