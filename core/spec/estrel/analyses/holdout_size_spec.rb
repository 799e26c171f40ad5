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
    expect(answer.finding).to match(/\AOf 180 people in “Audience 1” on 16 May 2026, of those dormant or churned, 33\.3% came back within 14 days\. A holdout of 10% of 1,000 people, of whom about 900 would be dormant or churned, can show a difference of \d+\.\d points or more\. For 2\.0 points it takes about [\d,]+ people: (\d+) runs of as many others each, \1 weeks \(power/)
    expect(asked(size: 0.5).finding).to end_with("That is less than the 50.0 points that would matter.")
  end

  it "measures sums, of which very large ones are cut" do
    answer = asked(metric: { event: "ride_ended", measure: "sum", property: "price" }, share: 0.5)
    # Of sixty who paid the 95th percentile is 50: forty times 2 and twenty times 50.
    expect(answer.picture[:usual]).to match(people: 200, some: 60, mean: be_within(1e-9).of(5.4))
    expect(answer.finding).to match(/the total price \(ride ended\) per person was 5\.40 within 14 days\. A holdout of 50% of 1,000 people can show a difference of \d+% of the mean or more\./)
  end

  # Of 200 who rode on 1 May or later sixty were active from 17 to 31 May; a tenth of them held back shows more than 5 points, half of them less than 20.
  it "says how large a share of everybody it takes" do
    all = ->(**more) { asked(audience: nil, people: nil, metric: { lifecycle: "was_active" }, **more) }
    takes = ->(size, share) { Estrel::Statistics::SampleSize.of_shares(0.3, 0.3 + size, (1 - share) / share) }
    shares = (1..500).map { |permille| permille / 1_000.0 }
    expect(takes.call(0.05, 0.5)).to be > 200
    expect(all.call(size: 0.05).finding).to match(/\AOf 200 people known on 16 May 2026, 30\.0% were active within 14 days\. A holdout of 10% of 200 people can show a difference of \d+\.\d points or more\. For 5\.0 points there are not people enough/)
    needed = shares.find { |share| takes.call(0.25, share) <= 200 }
    expect(all.call(size: 0.25).finding).to include("For 25.0 points it takes #{Estrel::English.percent(needed)} (power 80%").or include("For 25.0 points it takes #{Estrel::English.percent(needed - 0.001)} (power 80%")
    expect(all.call(size: 0.6).finding).to end_with("That is less than the 60.0 points that would matter.")
  end

  it "warns where it can show nothing, and where nothing is known" do
    { { people: 3 } => /A holdout of 10% of 3 people, of whom about 3 would be dormant or churned, can show nothing\./, { share: 0 } => /\AWithout a holdout/, { share: 1 } => /\ANobody is left/, { people: 0 } => /can show nothing/,
      { days: 8 } => /\ANone of 140 people .* came back in the days that are over/, { day: 16 } => /only 0 people to go by .* too few to tell how large/ }
      .each { |question, said| expect(asked(**question).finding).to match(said), question.to_s }
    [nil, { lifecycle: "was_active" }].each { |metric| expect { asked(active: nil, metric: metric) }.to raise_error(Estrel::Analyses::Analysis::NoRules, /no event type counts as activity/) }
    expect(asked(active: nil, metric: { event: "ride_ended" }).finding).to include("ended a ride within 14 days")
    expect { asked(audience: 9) }.to raise_error(Estrel::Analyses::Invalid, /no audience has the number 9/)
  end
end
