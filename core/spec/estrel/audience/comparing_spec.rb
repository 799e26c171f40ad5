# frozen_string_literal: true

# Overlap, breakdown, movement: small cases worked by hand.
RSpec.describe "comparing audiences" do
  let(:at) { Time.utc(2026, 5, 1, 12) }
  let(:population) do
    plans = { 1 => "a", 2 => "a", 3 => "b", 4 => "b", 5 => nil, 6 => "c", 7 => "a", 8 => "b" }
    people = plans.to_h do |id, plan|
      events = Array.new(id <= 4 ? id : 0) { |index| { type: "ride", at: at + (index * 86_400), dock: index.zero? ? "x" : "y" } }
      events << { type: "pass", at: at + (8 * 86_400) } if [2, 4, 6].include?(id)
      [id, { events: events, attributes: [{ name: "plan", at: at, value: plan }], profile_type: id == 8 ? "visitor" : "customer" }]
    end
    Population.new(people, event_types: { "ride" => { "dock" => "text" }, "pass" => {} }, attributes: { "plan" => "text" })
  end
  let(:as_of) { Date.new(2026, 5, 10) }
  let(:rode) { definition("did" => { "event" => "ride" }) }
  let(:bought) { definition("did" => { "event" => "pass" }) }
  let(:plan_a) { definition("attribute" => { "name" => "plan", "compare" => "is", "value" => "a" }) }

  def definition(json) = Estrel::Audience::Definition.parse(json, catalogue: population.catalogue)

  def evaluator(generation) = Estrel::Audience::Evaluator.new(generation, as_of: as_of)

  # What an analysis of some audiences finds.
  def compared(address, generation, definitions, **question)
    numbered = definitions.each_with_index.to_h { |definition, index| [index + 1, definition] }
    stored = AskedAnalyses::Stored.new(numbered, nil, nil, method(:definition))
    analysis(address, { audiences: numbered.keys, **question }, generation, as_of: as_of, stored: stored).over.picture
  end

  def split(json) = Estrel::Audience::Split.parse(json, population.catalogue)

  it "counts every exact combination, what is only in one, and how far pairs go together" do
    with_ledger(population) do |generation|
      # Rode 1 2 3 4, bought 2 4 6, plan a 1 2 7.
      found = compared("overlap", generation, [rode, bought, plan_a])
      expect(found[:regions].to_h { |region| [region[:inside], region[:count]] })
        .to eq([0] => 1, [1] => 1, [0, 1] => 1, [2] => 1, [0, 2] => 1, [1, 2] => 0, [0, 1, 2] => 1)
      expect(found.slice(:everybody, :any)).to eq(everybody: 8, any: 6)
      expect(found[:audiences].map { |row| row.slice(:count, :only) })
        .to eq([{ count: 4, only: 1 }, { count: 3, only: 1 }, { count: 3, only: 1 }])
      # Rode and bought: 2 of 4 and 2 of 3; by chance 4 × 3 / 8 = 1.5.
      expect(found[:pairs].first).to include(pair: [0, 1], count: 2, shares: [0.5, 2.fdiv(3)], lift: 2 / 1.5, low: nil)
      # Without the visitor, who is in none of them: by chance 4 × 3 / 7.
      expect(compared("overlap", generation, [rode, bought, plan_a], base: "customers")).to include(everybody: 7, any: 6, pairs: include(include(pair: [0, 1], lift: 2 / (12 / 7.0))))
      # In exactly rode and bought, not plan a: by chance 8 × 4/8 × 3/8 × 5/8 = 0.9375.
      expect(found[:regions].find { |region| region[:inside] == [0, 1] }[:lift]).to be_within(1e-12).of(1 / 0.9375)
    end
  end

  it "splits the combinations by an attribute, with the rest and the unset told apart" do
    with_ledger(population) do |generation|
      found = compared("overlap", generation, [rode, bought], by: { attribute: "plan" }, top: 1)
      # Of those in either, 1 2 have plan a, 3 4 plan b, 6 plan c.
      expect(found[:columns]).to eq([{ kind: "value", value: "a" }, { kind: "other", value: nil }])
      expect(found[:regions].map { |region| region[:split] }).to eq([[1, 1], [0, 1], [1, 1]])
    end
  end

  it "breaks an audience down and gives for every row the definition of its people" do
    with_ledger(population) do |generation|
      asked = evaluator(generation)
      [{ "attribute" => "plan" }, { "profile_type" => true },
       { "property" => { "event" => "ride", "of" => "dock", "take" => "most_frequent" } },
       { "property" => { "event" => "ride", "of" => "dock", "take" => "last", "window" => { "last_days" => 9 } } }].each do |by|
        found = compared("breakdown", generation, [], by: by, top: 1)
        expect(found[:rows].sum { |row| row[:counts].first }).to eq(8)
        found[:rows].each { |row| expect(asked.size(definition(row[:people_in]))).to eq(row[:counts].first), "#{by} #{row}" }
      end
      rows = compared("breakdown", generation, [rode], by: { property: { event: "ride", of: "dock", take: "most_frequent" } })[:rows]
      # 1: x; 2: x and y once each, so x; 3 and 4: y more often.
      expect(rows.map { |row| row.values_at(:value, :counts) }).to eq([["x", [2]], ["y", [2]]])
    end
  end

  it "compares two audiences' shares, with the interval of the difference" do
    with_ledger(population) do |generation|
      rows = compared("breakdown", generation, [rode, bought], by: { attribute: "plan" })[:rows]
      expect(rows.map { |row| [row[:value], row[:counts]] }).to eq([["b", [2, 1]], ["a", [2, 1]], ["c", [0, 1]]].sort_by { |value, counts| [-counts.sum, value] })
      a = rows.find { |row| row[:value] == "a" }
      # Of 6, who only bought, none; of 1 and 3, who only rode, one; of 2 and 4 one.
      expect(a[:difference]).to eq(Estrel::Statistics::Shares.overlapping([0, 1], [1, 2], [1, 2]))
      expect(a[:difference][:estimate]).to be_within(1e-12).of((1.0 / 3) - 0.5)
    end
  end

  it "tells who came and went between two dates, and which condition turned" do
    with_ledger(population) do |generation|
      # Rode in the last 3 days: on 4 May 1 rode on 1 May (out of the window), 2 on 1 2, 3 on 1 2 3, 4 on 1 … 4.
      recent = definition("all" => [{ "did" => { "event" => "ride", "window" => { "last_days" => 3 } } },
                                    { "attribute" => { "name" => "plan", "compare" => "is_not", "value" => "c" } }])
      later = Estrel::Audience::Evaluator.new(generation, as_of: Date.new(2026, 5, 4))
      expect(later.movement(recent, Date.new(2026, 5, 1))).to eq(
        before: 4, after: 3, entered: { count: 0, never_active: 0, conditions: [0, 0] }, left: { count: 1, never_active: 0, conditions: [1, 0] }
      )
      expect(later.movement(recent, Date.new(2026, 4, 30))[:entered]).to eq(count: 3, never_active: 3, conditions: [3, 0])
      parts = Estrel::Audience::PartByPart.new(generation, parts: 3, as_of: Date.new(2026, 5, 4))
      [later, parts].each do |asked|
        expect(asked.moved(recent, Date.new(2026, 5, 1)).transform_values(&:to_a)).to eq(entered: [], left: [1])
      end
    end
  end

  it "refuses to tell people apart by a list, by nothing known, or by a name that is not there" do
    lists = Population.new({}, attributes: { "tags" => "list" }).catalogue
    expect { Estrel::Audience::Split.parse({ "attribute" => "tags" }, lists) }.to raise_error(Estrel::Audience::Invalid, /several/)
    expect { split("attribute" => "plam") }.to raise_error(Estrel::Audience::Invalid, /did you mean "plan"/)
    expect { split("weather" => true) }.to raise_error(Estrel::Audience::Invalid, /split by/)
    expect { split("property" => { "event" => "ride", "of" => "dock", "take" => "sum" }) }.to raise_error(Estrel::Audience::Invalid, /choose a value/)
  end

  # Newcombe 1998, table II: 56/70 against 48/80 gives 0.2 with 0.0524 to 0.3339; 9/10 against 3/10 gives 0.6 with
  # 0.1705 to 0.8090.
  it "gives the published intervals" do
    first = Estrel::Statistics::Shares.difference(56, 70, 48, 80)
    expect(first.transform_values { |value| value.round(4) }).to eq(estimate: 0.2, low: 0.0524, high: 0.3339)
    second = Estrel::Statistics::Shares.difference(9, 10, 3, 10)
    expect(second.transform_values { |value| value.round(4) }).to eq(estimate: 0.6, low: 0.1705, high: 0.809)
    expect(Estrel::Statistics::Shares.difference(0, 10, 0, 10).values_at(:low, :high)).to match([be_within(0.001).of(-0.2775), be_within(0.001).of(0.2775)])
  end

  it "stops a question that takes too long, is too large, or is no longer waited for" do
    with_ledger(population) do |generation|
      { { seconds: -1 } => /choose a shorter period or fewer conditions/, { bytes: 1 } => /MB/, { cancelled: -> { true } } => /cancelled/ }.each do |limit, message|
        asked = Estrel::Audience::Evaluator.new(generation, as_of: as_of, budget: Estrel::Budget.new(**limit))
        expect { asked.size(rode) }.to raise_error(Estrel::Budget::Exceeded, message)
      end
    end
  end
end
