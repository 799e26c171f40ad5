# frozen_string_literal: true

RSpec.describe Estrel::Audience::Why do
  let(:at) { Time.utc(2026, 5, 1, 12) }
  let(:population) do
    rides = [0, 1, 5].map { |day| { type: "ride", at: at + (day * 86_400), km: 2.0 + day, dock: day.zero? ? "x" : "y" } }
    Population.new(
      { 1 => { events: [], attributes: [{ name: "plan", at: at, value: "z" }] },
        2 => { events: [*rides, { type: "pass", at: at + (86_400 * 6) }], profile_type: "customer",
               attributes: [{ name: "plan", at: at, value: "a" }, { name: "plan", at: at + 86_400, value: "b" }],
               reach: [{ channel: "email", at: at, address: "not one" }, { channel: "push", at: at, given: true }] },
        3 => { events: [], attributes: [{ name: "plan", at: at, value: "z" }] } },
      event_types: { "ride" => { "km" => "number", "dock" => "text" }, "pass" => {} }, attributes: { "plan" => "text" }
    )
  end
  let(:rule_set) { Estrel::Lifecycle::RuleSet.new(activity: ["ride"], new_for: 3, active_within: 4, churned_after: 20) }

  def why(json, id: 2, as_of: Date.new(2026, 5, 10))
    with_ledger(population) do |generation|
      definition = Estrel::Audience::Definition.parse(json, catalogue: population.catalogue)
      yield described_class.new(generation, id, as_of: as_of, rule_set: rule_set), definition
    end
  end

  def found(condition) = why(condition) { |asked, definition| asked.verdicts(definition).first.then { |one| [one.holds, [one.found, one.asked].compact.join("; asked: "), one.nearness] } }

  def ride(more) = { "did" => { "event" => "ride", **more } }

  it "says for every kind of condition what was found, and how near that is" do
    {
      ride("count" => { "at_least" => 5 }) => [false, "had “ride” events 3 times at any time; asked: at least 5 times", 0.6],
      ride("count" => { "at_most" => 1 }) => [false, "had “ride” events 3 times at any time; asked: at most once", 0.5],
      ride("count" => { "at_least" => 2, "of" => "days" }) => [true, "had “ride” events on 3 days at any time; asked: on at least 2 days", 1.0],
      ride("measure" => { "of" => "km", "take" => "sum", "compare" => "at_least", "value" => 24 }) => [false, "total km 12; asked: is at least 24", 0.5],
      ride("measure" => { "of" => "dock", "take" => "most_frequent", "compare" => "is", "value" => "y" }) => [true, "most frequent dock y; asked: is y", 1.0],
      ride("where" => [{ "so_far" => "minutes_spent", "compare" => "at_least", "value" => 5 }], "count" => { "at_least" => 1 }) => [false, "has not had “ride” events like that at any time; asked: at least once", 0.0],
      ride("where" => [{ "so_far" => { "event" => "ride", "property" => "km" }, "compare" => "at_least", "value" => 3 }], "count" => { "at_least" => 3 }) => [false, "had “ride” events like that twice at any time; asked: at least 3 times", 2 / 3.0],
      { "attribute" => { "name" => "plan", "compare" => "is", "value" => "a" } } => [false, "plan is “b”", 0.0],
      { "attribute" => { "name" => "plan", "compare" => "is", "value" => "a", "ever" => true } } => [true, "plan has had 2 values", 1.0],
      { "changed" => { "name" => "plan", "window" => { "ever" => true } } } => [true, "plan has changed twice", 1.0],
      { "last" => { "event" => "ride", "window" => { "last_days" => 2 } } } => [false, "had “ride” events for the last time on 6 May 2026", 0.0],
      { "first" => { "event" => "ride", "window" => { "last_days" => 10 } } } => [true, "had “ride” events for the first time on 1 May 2026", 1.0],
      { "first" => { "event" => "ride", "window" => { "last_days" => 10 }, "then" => [{ "property" => "km", "compare" => "greater", "value" => 9_999 }] } } => [false, "had “ride” events for the first time on 1 May 2026, but the conditions were not met", 0.0],
      { "rhythm" => { "event" => "ride", "each" => "week", "last" => 2 } } => [true, "had “ride” events in 2 of 2 weeks; asked: in 2", 1.0],
      { "visit" => { "all" => [{ "event" => "ride" }, { "event" => "pass" }], "window" => { "ever" => true } } } => [false, "1 of 2 in the best visit", 0.5],
      { "visited" => { "count" => { "at_least" => 5 }, "length" => { "below" => 60 }, "window" => { "ever" => true } } } => [false, "made 4 such visits at any time; asked: at least 5 visits", 0.8],
      { "order" => { "steps" => [{ "event" => "pass" }, { "event" => "ride" }] } } => [false, "1 of 2 steps", 0.5],
      { "order" => { "steps" => [{ "event" => "ride" }], "then_not" => { "event" => "pass", "within" => { "days" => 30 } } } } =>
        [false, "1 of 1 steps; followed each time", 0.9],
      { "lifecycle" => { "is" => ["active"] } } => [false, "dormant on 10 May 2026, inactive for 4 days", 0.0],
      { "reachable" => { "by" => %w[email push] } } => [true, "not by e-mail, by push message", 1.0],
      { "chance" => { "at_least" => 0.8, "model" => { "of" => "come_back", "within_days" => 30, "learned_until" => "2026-05-01", "intercept" => 0.0, "weights" => Estrel::Propensity::Features::NAMES.transform_values { 0.0 } } } } =>
        [false, "50.0% to come back within 30 days; asked: at least 80%", 0.625],
      { "seen" => { "window" => { "last_days" => 3 } } } => [false, "first seen on 1 May 2026", 0.0],
      { "profile_type" => { "is" => ["visitor"] } } => [false, "A customer", 0.0]
    }.each do |condition, (holds, said, nearness)|
      expect(found(condition)).to eq([holds, said, nearness]), condition.to_json
    end
  end

  it "gives the newest events as facts, with their times, and counts the others" do
    why(ride({})) do |asked, definition|
      facts = asked.verdicts(definition).first.facts
      expect(facts.map { |fact| fact[:what] }.uniq).to eq(["had “ride” events"])
      expect(facts.map { |fact| fact[:at] }).to eq([5, 1, 0].map { |day| ((at + (day * 86_400)).to_r * 1_000_000).to_i })
    end
  end

  it "names the events that were the steps of an order, each before the next" do
    why({ "order" => { "steps" => [{ "event" => "ride" }, { "event" => "ride" }, { "event" => "pass" }] } }) do |asked, definition|
      days = asked.verdicts(definition).first.facts.map { |fact| [fact[:what], ((Time.at(0, fact[:at], :usec) - at) / 86_400).round] }
      expect(days).to eq([["step 3: had “pass” events", 6], ["step 2: had “ride” events", 5], ["step 1: had “ride” events", 1]])
    end
  end

  it "names the condition somebody who is out comes nearest to, inside groups too" do
    json = { "all" => [ride("count" => { "at_least" => 6 }), ride("count" => { "at_least" => 4 }),
                       { "any" => [ride("count" => { "at_least" => 30 }), { "not" => ride({}) }] }, ride({})] }
    why(json) do |asked, definition|
      verdicts = asked.verdicts(definition)
      expect(verdicts.map(&:holds)).to eq([false, false, false, true])
      expect(described_class.nearest(verdicts).place).to eq("all[1]")
      expect(verdicts[2].conditions.map(&:place)).to eq(["all[2].any[0]", "all[2].any[1]"])
      expect(asked.member?(definition)).to be(false)
    end
  end

  it "finds the day on which the membership began" do
    # The second ride was on 2 May; with the window of 5 days it counts until 6 May, when the third one came.
    why(ride("count" => { "at_least" => 2 }, "window" => { "last_days" => 5 }), as_of: Date.new(2026, 5, 6)) do |asked, definition|
      expect(asked.member_since(definition)).to eq(Date.new(2026, 5, 2))
    end
    why(ride({}), id: 3) { |asked, definition| expect(asked.member_since(definition)).to be_nil }
  end
end
