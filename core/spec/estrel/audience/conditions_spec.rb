# frozen_string_literal: true

# Exact, hand-worked cases of the conditions at their edges; random_histories_spec covers the rest.
RSpec.describe "conditions at their edges" do
  def at(text) = Time.parse("#{text} UTC")

  def population(people, time_zone: "UTC")
    Population.new(people, time_zone: time_zone, event_types: { "plan" => {}, "ride" => { "km" => "number" }, "buy" => {} }, attributes: { "tier" => "text" })
  end

  def did(*rows) = { events: rows.map { |type, time, properties = {}| { type: type, at: at(time), **properties } }, attributes: [] }

  def members(people, json, as_of, **zone)
    population = population(people, **zone)
    rule_set = Estrel::Lifecycle::RuleSet.new(activity: %w[plan ride buy], new_for: 3, active_within: 5, churned_after: 10)
    with_ledger(population) do |generation|
      definition = Estrel::Audience::Definition.parse(json, catalogue: population.catalogue)
      evaluator = Estrel::Audience::Evaluator.new(generation, as_of: Date.parse(as_of), rule_set: rule_set)
      block_given? ? yield(evaluator, definition) : evaluator.members(definition).to_a
    end
  end

  def order(*steps, **others) = { "order" => { "steps" => steps, **others.transform_keys(&:to_s) } }

  it "looks for each step in its own window, and for what lies between in all" do
    people = { 1 => did(["plan", "2026-04-28 10:00"], ["ride", "2026-05-02 10:00"]), 2 => did(["plan", "2026-04-28 10:00"], ["buy", "2026-04-29 10:00"], ["ride", "2026-05-02 10:00"]),
               3 => did(["plan", "2026-04-28 10:00"], ["ride", "2026-04-29 10:00"]) }
    may = { "window" => { "from" => "2026-05-01" } }
    expect(members(people, order({ "event" => "plan" }, { "event" => "ride", **may }), "2026-05-31")).to eq([1, 2])
    expect(members(people, order({ "event" => "plan" }, { "event" => "ride", "next" => true, **may }), "2026-05-31")).to eq([1])
    expect(members(people, order({ "event" => "plan" }, { "event" => "ride", **may }, window: { "from" => "2026-05-01" }), "2026-05-31")).to eq([])
    said = Estrel::Audience::Definition.parse(order({ "event" => "plan" }, { "event" => "ride", **may }), catalogue: population(people).catalogue)
    expect(Estrel::Audience::Sentence.new(said, population(people).catalogue).to_s).to include("“ride” events on or after 1 May 2026")
  end

  it "knows the minutes spent by a system message, which belongs to no visit" do
    people = { 1 => did(["buy", "2026-05-01 09:00"], ["ride", "2026-05-01 10:00"], ["ride", "2026-05-01 10:20"], ["buy", "2026-05-01 12:00"], ["buy", "2026-05-01 10:20"]), 2 => did(["buy", "2026-05-01 10:00"]) }
    system = Population.new(people, event_types: { "plan" => {}, "ride" => {}, "buy" => {} }, system: %w[buy])
    with_ledger(system) do |ledger|
      evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, 31))
      found = { "at_least" => [20, 3], "at_most" => [0, 2] }.map do |compare, (minutes, _)|
        json = { "did" => { "event" => "buy", "where" => [{ "so_far" => "minutes_spent", "compare" => compare, "value" => minutes }], "count" => { "at_least" => 1 }, "window" => { "ever" => true } } }
        evaluator.members(Estrel::Audience::Definition.parse(json, catalogue: ledger.catalogue)).to_a
      end
      expect(found).to eq([[1], [1, 2]])
      expect(Estrel::Ledger::SoFar.of(ledger, Estrel::Ledger::SoFar::MINUTES).to_a).to eq([0, 0, 20, 20, 20, 0])
    end
  end

  # Active within 5 days: 1 comes back on the 20th, 2 has never been away.
  it "asks for people who have not been reactivated as well as for those who have" do
    people = { 1 => did(["ride", "2026-05-01 10:00"], ["ride", "2026-05-20 10:00"]), 2 => did(*(16..20).map { |day| ["ride", "2026-05-#{day} 10:00"] }) }
    asked = ->(**more) { members(people, { "lifecycle" => { "is" => %w[new active], **more.transform_keys(&:to_s) } }, "2026-05-21") }
    expect([asked.call, asked.call(reactivated: true), asked.call(reactivated: false)]).to eq([[1, 2], [1], [2]])
    expect(members(people, { "lifecycle" => { "is" => %w[dormant churned], "entered_last_days" => 30, "reactivated" => false } }, "2026-05-21")).to eq([1])
    expect { asked.call(reactivated: false, for_at_least_days: 3) }.to raise_error(Estrel::Audience::Invalid, /“reactivated” works only for now/)
    members(people, { "lifecycle" => { "is" => ["active"], "reactivated" => false } }, "2026-05-21") do |evaluator, definition|
      expect(Estrel::Audience::Sentence.new(definition, evaluator.catalogue).to_s).to include("not having been reactivated")
      expect(definition.to_h["lifecycle"]).to include("reactivated" => false)
    end
  end

  it "says single days, hours and visits as people do" do
    said = lambda do |json|
      catalogue = population({}).catalogue
      Estrel::Audience::Sentence.new(Estrel::Audience::Definition.parse(json, catalogue: catalogue), catalogue).to_s
    end
    expect(said.call({ "lifecycle" => { "is" => ["active"], "for_at_least_days" => 1 } })).to include("for at least 1 day")
    expect([1, 2].map { |hours| said.call({ "did" => { "event" => "ride", "count" => { "at_least" => 1 }, "window" => { "last_hours" => hours } } }) }).to match([/in the last hour/, /in the last 2 hours/])
    numbers = [{ "at_most" => 1 }, { "at_least" => 2, "at_most" => 2 }, { "at_least" => 3 }, { "at_least" => 2, "at_most" => 12 }, { "at_most" => 4 }]
    expect(numbers.map { |number| said.call({ "visited" => { "number" => number, "count" => { "at_least" => 1 }, "window" => { "ever" => true } } })[/(the \S+ of|one of|after|from the).*visits/] })
      .to eq(["the 1st of their visits", "the 2nd of their visits", "after their first 2 visits", "from the 2nd to the 12th of their visits", "one of their first 4 visits"])
  end

  it "takes a step within a time up to exactly that time, and never at the same instant" do
    people = { 1 => did(["plan", "2026-05-01 10:00"], ["ride", "2026-05-08 10:00"]), 2 => did(["plan", "2026-05-01 10:00"], ["ride", "2026-05-08 10:00:01"]),
               3 => did(["plan", "2026-05-01 10:00"], ["ride", "2026-05-01 10:00"]) }
    expect(members(people, order({ "event" => "plan" }, { "event" => "ride", "within" => { "days" => 7 } }), "2026-05-31")).to eq([1])
  end

  it "lets nothing come between a step and the very next one" do
    people = { 1 => did(["plan", "2026-05-01 10:00"], ["ride", "2026-05-02 10:00"]),
               2 => did(["plan", "2026-05-01 10:00"], ["buy", "2026-05-01 11:00"], ["ride", "2026-05-02 10:00"]),
               3 => did(["plan", "2026-05-01 10:00"], ["buy", "2026-05-02 10:00"], ["ride", "2026-05-02 10:00"]) }
    expect(members(people, order({ "event" => "plan" }, { "event" => "ride", "next" => true }), "2026-05-31")).to eq([1, 3])
  end

  it "knows what held on the first event, or on one of several at that instant, whatever holds for later ones" do
    tier = ->(value, time) { { name: "tier", at: at(time), value: value } }
    people = { 1 => did(["ride", "2026-05-01 10:00", { km: 5 }], ["ride", "2026-05-02 10:00", { km: 1 }]), 2 => did(["ride", "2026-05-01 10:00", { km: 1 }], ["ride", "2026-05-02 10:00", { km: 5 }]),
               3 => did(["ride", "2026-05-01 10:00", { km: 1 }], ["ride", "2026-05-01 10:00", { km: 5 }]).merge(attributes: [tier["gold", "2026-05-01 10:00"], tier["blue", "2026-05-03 10:00"]]) }
    first = ->(*held) { { "first" => { "event" => "ride", "window" => { "ever" => true }, "then" => held } } }
    far = { "property" => "km", "compare" => "at_least", "value" => 5 }
    gold = { "attribute" => "tier", "compare" => "is", "value" => "gold" }
    expect([first[far], first[far, gold], first[]].map { |json| members(people, json, "2026-05-31") }).to eq([[1, 3], [3], [1, 2, 3]])
    expect(members(people, { "last" => first[far]["first"] }, "2026-05-31")).to eq([2, 3])
    said = members(people, first[far, gold], "2026-05-31") { |evaluator, definition| [Estrel::Audience::Sentence.new(definition, evaluator.catalogue).to_s, definition.to_h] }
    expect(said.first).to eq("People who had “ride” events for the first time at any time and then km is at least 5 and tier at that time is gold")
    expect(said.last["first"]["then"].size).to eq(2)
  end

  it "begins with the first of a kind, everything at that instant included, and lets steps lie more than a time apart" do
    people = { 1 => did(["plan", "2026-05-01 10:00"], ["plan", "2026-05-04 10:00"], ["ride", "2026-05-04 10:10"]),
               2 => did(["plan", "2026-05-01 10:00"], ["ride", "2026-05-03 10:00"]), 3 => did(["buy", "2026-05-01 10:00"], ["plan", "2026-05-01 10:00"], ["ride", "2026-05-03 10:00:01"]) }
    apart = { "after" => { "days" => 2 }, "within" => { "days" => 5 } }
    expect(members(people, order({ "event" => "plan" }, { "event" => "ride", **apart }), "2026-05-31")).to eq([1, 3])
    expect(members(people, order({ "any_event" => true, "first" => true }, { "event" => "ride", "within" => { "days" => 3 } }), "2026-05-31")).to eq([2, 3])
    expect(members(people, order({ "events" => %w[plan buy], "first" => true }, { "event" => "ride", **apart }), "2026-05-31")).to eq([1, 3])
  end

  it "decides what was then not done only when the time has passed, and says how many are open" do
    people = { 1 => did(["plan", "2026-05-01 10:00"]), 2 => did(["plan", "2026-05-01 10:00"], ["buy", "2026-05-03 10:00"]),
               3 => did(["plan", "2026-05-01 10:00"], ["buy", "2026-05-03 10:00:01"]) }
    json = order({ "event" => "plan" }, then_not: { "event" => "buy", "within" => { "days" => 2 } })
    open = ->(as_of) { members(people, json, as_of) { |evaluator, definition| [evaluator.members(definition).to_a, evaluator.undecided(definition)] } }
    expect(open.call("2026-05-02")).to eq([[], 3])
    expect(open.call("2026-05-03")).to eq([[1, 3], 0])
  end

  it "keeps to one visit up to a gap of exactly the visit gap" do
    people = { 1 => did(["plan", "2026-05-01 10:00"], ["ride", "2026-05-01 10:30"]), 2 => did(["plan", "2026-05-01 10:00"], ["ride", "2026-05-01 10:30:01"]),
               3 => did(["plan", "2026-05-01 10:00"], ["buy", "2026-05-01 10:30"], ["ride", "2026-05-01 11:00"]) }
    expect(members(people, { "visit" => { "all" => [{ "event" => "plan" }, { "event" => "ride" }] } }, "2026-05-31")).to eq([1, 3])
    expect(members(people, { "did" => { "any_event" => true, "count" => { "at_least" => 2, "of" => "visits" } } }, "2026-05-31")).to eq([2])
  end

  it "counts and measures inside one visit, leaves out what was done in it, and looks at its first and its last event" do
    ride = ->(at, km) { ["ride", "2026-05-01 #{at}", { km: km }] }
    people = { 1 => did(ride["10:00", 2.0], ride["10:10", 2.0], ride["10:20", 2.0], ["buy", "2026-05-01 10:50"]),
               2 => did(ride["10:00", 3.0], ride["10:10", 2.0], ["buy", "2026-05-01 10:11"], ride["12:00", 1.0]),
               3 => did(["buy", "2026-05-01 08:00"], ride["10:00", 2.0], ride["10:10", 2.0], ride["10:20", 2.0]),
               4 => did(["ride", "2026-05-01 10:00"], ["buy", "2026-05-01 10:00"], ["plan", "2026-05-01 10:00"]) }
    rides = ->(**asked) { { "event" => "ride", **asked.transform_keys(&:to_s) } }
    total = { "of" => "km", "take" => "sum", "compare" => "at_least", "value" => 5 }
    { [rides[count: { "at_least" => 3 }]] => [1, 3], [rides[count: { "at_least" => 3 }], { "event" => "buy" }] => [1],
      [rides[count: { "at_least" => 3 }], { "event" => "buy", "count" => { "exactly" => 0 } }] => [3],
      [rides[measure: total]] => [1, 2, 3], [{ "event" => "buy" }, rides[measure: { **total, "compare" => "less" }]] => [3, 4],
      [{ "event" => "buy" }, rides[count: { "between" => [1, 2] }]] => [2, 4] }.each do |all, expected|
      expect(members(people, { "visit" => { "all" => all } }, "2026-05-31")).to eq(expected), all.to_json
      expect(members(people, { "visited" => { "doing" => all } }, "2026-05-31")).to eq(expected), all.to_json
    end
    # Of events at one instant the types decide, in the order of the catalogue.
    { { "ended" => { "event" => "buy" } } => [1, 2, 3, 4], { "began" => { "event" => "buy" } } => [3], { "began" => rides[], "ended" => rides[] } => [2, 3],
      { "began" => { "event" => "plan" }, "ended" => { "event" => "buy" } } => [4], { "ended" => rides[where: [{ "property" => "km", "compare" => "is", "value" => 2 }]] } => [3] }.each do |asked, expected|
      expect(members(people, { "visited" => asked }, "2026-05-31")).to eq(expected), asked.to_json
    end
  end

  it "looks at calendar weeks that have ended, weeks beginning on Monday" do
    people = { 1 => did(["ride", "2026-05-04 00:00"], ["ride", "2026-05-17 23:59:59"]), 2 => did(["ride", "2026-05-03 23:59:59"], ["ride", "2026-05-17 12:00"]),
               3 => did(["ride", "2026-05-11 12:00"], ["ride", "2026-05-18 12:00"]) }
    rhythm = { "rhythm" => { "event" => "ride", "each" => "week", "last" => 2 } }
    expect(members(people, rhythm, "2026-05-17")).to eq([1])
    expect(members(people, rhythm, "2026-05-23")).to eq([1])
    expect(members(people, rhythm, "2026-05-24")).to eq([3])
  end

  it "counts hours of the day and the last hours on the wall clock of the zone, over a clock change" do
    people = { 1 => did(["ride", "2026-10-25 00:30"]), 2 => did(["ride", "2026-10-25 01:30"]), 3 => did(["ride", "2026-10-25 02:30"]) }
    window = ->(**window) { { "did" => { "event" => "ride", "window" => window.transform_keys(&:to_s) } } }
    berlin = { time_zone: "Europe/Berlin" } # 00:30 and 01:30 UTC are both 02:30 there
    expect(members(people, window.call(hours: [2, 3]), "2026-10-25", **berlin)).to eq([1, 2])
    expect(members(people, window.call(last_hours: 22), "2026-10-25", **berlin)).to eq([2, 3]) # the day has 25 hours
    expect(members(people, window.call(weekdays: [7], hours: [22, 3]), "2026-10-25", **berlin)).to eq([1, 2])
  end

  it "measures nothing as 0 where that has a meaning, and as missing where it has none" do
    people = { 1 => did(["ride", "2026-05-01 10:00", { km: 2.0 }], ["ride", "2026-05-02 10:00", { km: 2.0 }]), 2 => did(["ride", "2026-05-01 10:00"]), 3 => did(["buy", "2026-05-01 10:00"]) }
    measured = ->(take, compare, value) { members(people, { "did" => { "event" => "ride", "measure" => { "of" => "km", "take" => take, "compare" => compare, "value" => value } } }, "2026-05-31") }
    expect(measured.call("sum", "at_most", 4)).to eq([1, 2, 3])
    expect(measured.call("distinct", "is", 1)).to eq([1])
    expect(measured.call("mean", "at_most", 4)).to eq([1])
    expect(measured.call("max", "is_not", 5)).to eq([1, 2, 3])
  end

  it "knows since when somebody has been in a state" do
    people = { 1 => did(["ride", "2026-05-01 10:00"]) } # dormant from the 6th, churned from the 11th
    lifecycle = ->(as_of, **body) { members(people, { "lifecycle" => body.transform_keys(&:to_s) }, as_of) == [1] }
    expect(lifecycle.call("2026-05-08", is: ["dormant"], for_at_least_days: 2)).to be(true)
    expect(lifecycle.call("2026-05-08", is: ["dormant"], for_at_least_days: 3)).to be(false)
    expect(lifecycle.call("2026-05-08", is: ["dormant"], entered_last_days: 3)).to be(true)
    expect(lifecycle.call("2026-05-08", is: ["dormant"], entered_last_days: 2)).to be(false)
    expect(lifecycle.call("2026-05-08", is: ["dormant"], entered_last_days: 3, from: ["new"])).to be(false)
    expect(lifecycle.call("2026-05-20", is: ["dormant"], on: "2026-05-10")).to be(true)
    expect(lifecycle.call("2026-05-20", is: ["dormant"], on: "2026-05-11")).to be(false)
  end

  it "refuses what cannot be meant" do
    faults = lambda do |json|
      Estrel::Audience::Definition.parse(json, catalogue: population({}).catalogue) && []
    rescue Estrel::Audience::Invalid => e
      e.errors.map { |error| error[:message] }
    end
    expect(faults.call(order({ "event" => "plan", "next" => true }))).to match([/first step cannot follow/])
    expect(faults.call({ "did" => { "event" => "ride", "any_event" => true } })).to match([/at least one event type/])
    expect(faults.call({ "rhythm" => { "event" => "ride", "each" => "week", "last" => 2, "in" => 3 } })).to match([/enter at most 2 weeks/])
    expect(faults.call({ "did" => { "event" => "ride", "where" => [{ "property" => "km", "compare" => "between", "value" => [5, 2] }] } })).to match([/lower limit \(5\) is greater than the upper limit/])
    expect(faults.call({ "did" => { "event" => "ride", "count" => { "at_least" => 1 }, "measure" => { "of" => "km", "take" => "sum", "compare" => "is", "value" => 1 } } })).to match([/not both/])
    expect(faults.call({ "did" => { "event" => "ride", "window" => { "last_days" => 3, "ever" => true } } })).to match([/choose a period/])
    expect(faults.call({ "lifecycle" => { "is" => ["new"], "on" => "2026-05-01", "from" => ["active"] } })).to match([/“previous state” works only/])
    expect(faults.call({ "did" => { "events" => %w[ride bye] } })).to match([/no event type "bye"/])
  end
end
