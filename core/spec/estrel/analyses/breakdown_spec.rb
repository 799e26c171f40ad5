# frozen_string_literal: true

RSpec.describe Estrel::Analyses::Breakdown do
  def compared(people)
    told = people.each_with_index.to_h do |(side, plan), index|
      attributes = { "side" => side, "plan" => plan }.map { |name, value| { name: name, at: Time.utc(2026, 5, 1), value: value } }
      [index + 1, { events: [], attributes: attributes }]
    end
    sides = %w[left right].each_with_index.to_h { |side, index| [index + 1, { "attribute" => { "name" => "side", "compare" => "is", "value" => side } }] }
    with_ledger(Population.new(told, event_types: {}, attributes: { "side" => "text", "plan" => "text" })) do |ledger|
      definitions = sides.transform_values { |json| Estrel::Audience::Definition.parse(json, catalogue: ledger.catalogue) }
      stored = AskedAnalyses::Stored.new(definitions, nil, nil)
      return analysis("breakdown", { "audiences" => [1, 2], "by" => { "attribute" => "plan" } }, ledger, as_of: Date.new(2026, 5, 10), stored: stored).over.finding
    end
  end

  it "names what differs most, of what differs beyond chance" do
    people = Array.new(300) { |number| ["left", number < 200 ? "day" : "year"] } + Array.new(300) { |number| ["right", number < 100 ? "day" : "year"] }
    expect(compared(people)).to match(/\ALargest difference: “(day|year)”, (66\.7% of “.*” vs 33\.3% of “.*”|33\.3% of “.*” vs 66\.7% of “.*”)/)
    expect(compared(people.select { |side,| side == "left" })).to eq("There is nobody in one of the two to compare with.")
  end

  it "claims that a value differs where none does in at most one of twenty comparisons, however many values there are" do
    random = Random.new(3)
    claims = Array.new(120) { compared(Array.new(400) { |number| [number.even? ? "left" : "right", "plan #{random.rand(15)}"] }) }
    expect(claims.count { |finding| finding.include?("differs most") }).to be <= 9
  end
end
