# frozen_string_literal: true

RSpec.describe Estrel::Analyses::HoldoutSize do
  # Two hundred rode on 1 May; sixty again on 20 May, for 2 or, every third of them, 50.
  def asked(day: 31, **question)
    people = (1..200).to_h do |id|
      rides = [{ type: "ride_ended", at: Time.utc(2026, 5, 1, 10), price: 1.0 }]
      rides << { type: "ride_ended", at: Time.utc(2026, 5, 20, 10), price: (id % 3).zero? ? 50.0 : 2.0 } if id <= 60
      [id, { events: rides, attributes: [] }]
    end
    with_ledger(Population.new(people, event_types: { "ride_ended" => { "price" => "number" } })) do |ledger|
      everybody = Estrel::Audience::Definition.parse({ "all" => [] }, catalogue: ledger.catalogue)
      rules = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 1, active_within: 5, churned_after: 20)
      analysis("holdout-size", { audience: 1, share: 0.1, people: 1_000, **question }, ledger, as_of: Date.new(2026, 5, day), rules: rules, stored: AskedAnalyses::Stored.new({ 1 => everybody }, nil, nil), parts: 2).over
    end
  end

  it "says what a holdout can show, and how many people and runs it takes" do
    answer = asked(every: "week")
    found = answer.picture
    # From 17 to 31 May sixty of the two hundred, all of whom were dormant, came back.
    expect(found[:usual]).to eq({ people: 200, some: 60, mean: 0.3 })
    expect(found[:needed]).to eq(Estrel::Statistics::SampleSize.of_shares(0.3, 0.32, 9.0))
    expect(Estrel::Statistics::SampleSize.of_shares(0.3, 0.3 + found[:smallest], 9.0)).to be <= 1_000
    expect(Estrel::Statistics::SampleSize.of_shares(0.3, 0.3 + found[:smallest] - 0.001, 9.0)).to be > 1_000
    expect(found[:runs]).to eq((found[:needed] / 1_000.0).ceil)
    expect(answer.finding).to match(/\AOf 200 people in “Audience 1” on 16 May 2026, of those dormant or churned, 30\.0% came back within 14 days\. A holdout of 10% of 1,000 people can show a difference of \d+\.\d points or more\. For 2\.0 points it takes about [\d,]+ people: (\d+) runs of as many others each, \1 weeks \(power/)
    expect(asked(size: 0.5).finding).to end_with("That is less than the 50.0 points that would matter.")
  end

  it "measures sums, of which very large ones are cut" do
    answer = asked(metric: { event: "ride_ended", measure: "sum", property: "price" }, share: 0.5)
    # Of sixty who paid the 95th percentile is 50: forty times 2 and twenty times 50.
    expect(answer.picture[:usual]).to match(people: 200, some: 60, mean: be_within(1e-9).of(5.4))
    expect(answer.finding).to match(/the total price \(ride ended\) per person was 5\.40 within 14 days\. A holdout of 50% of 1,000 people can show a difference of \d+% of the mean or more\./)
  end

  it "warns where it can show nothing, and where nothing is known" do
    { { people: 3 } => /A holdout of 10% of 3 people can show nothing\./, { share: 0 } => /\AWithout a holdout/, { share: 1 } => /\ANobody is left/, { people: 0 } => /can show nothing/,
      { days: 8 } => /\ANone of 140 people .* came back in the days that are over/, { day: 16 } => /only 0 people to go by .* too few to tell how large/ }
      .each { |question, said| expect(asked(**question).finding).to match(said), question.to_s }
    expect { asked(audience: 9) }.to raise_error(Estrel::Analyses::Invalid, /no audience has the number 9/)
  end
end
