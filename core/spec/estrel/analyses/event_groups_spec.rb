# frozen_string_literal: true

# Worked by hand: five people, rides of three lengths and two without, and three plans.
#
#   person  plan     rides
#   1       monthly  short, short, long
#   2       monthly  long
#   3       yearly   short, none
#   4       none     none
#   5       weekly   tour
RSpec.describe Estrel::Analyses::EventGroups do
  let(:people) do
    { 1 => person("monthly", "short", "short", "long"), 2 => person("monthly", "long"),
      3 => person("yearly", "short", nil), 4 => person(nil, nil), 5 => person("weekly", "tour") }
  end

  def person(plan, *lengths)
    { events: lengths.each_with_index.map { |length, index| { type: "ride", at: Time.utc(2026, 5, 10, 8 + index), length: length } },
      attributes: plan ? [{ name: "plan", value: plan, at: Time.utc(2026, 1, 1) }] : [] }
  end

  # The value of each line over the range, by its name.
  def lines(question)
    population = Population.new(people, event_types: { "ride" => { "length" => "text" } }, attributes: { "plan" => "text" })
    with_ledger(population) do |ledger|
      asked = { series: [{ event: "ride" }], from: "2026-05-10", to: "2026-05-10", step: "day", measure: "times", **question }
      answer = analysis("trends", asked, ledger, as_of: Date.new(2026, 5, 12)).over
      answer.picture[:rows].to_h { |line| [line[:name], line[:values].first] }
    end
  end

  it "puts events without the property into a group of their own" do
    expect(lines({ by_event: "length" })).to eq({ "short" => 3, "long" => 2, "tour" => 1, "not set" => 2 })
    expect(lines({ by_event: "length", measure: "people" })).to eq({ "short" => 2, "long" => 2, "tour" => 1, "not set" => 2 })
  end

  it "puts all rides of a person into the group of that person" do
    expect(lines({ by: { attribute: "plan" } })).to eq({ "monthly" => 4, "yearly" => 2, "weekly" => 1, "not set" => 1 })
    expect(lines({ by: { attribute: "plan" }, measure: "people" })).to eq({ "monthly" => 2, "weekly" => 1, "yearly" => 1, "not set" => 1 })
  end

  it "names the most frequent values, and one other value too, since it takes no more room than \"1 other value\"" do
    expect(lines({ by_event: "length", top: 1 })).to eq({ "short" => 3, "2 other values" => 3, "not set" => 2 })
    expect(lines({ by_event: "length", top: 2 })).to eq({ "short" => 3, "long" => 2, "tour" => 1, "not set" => 2 })
  end

  it "splits by event and by person at once, and adds up to all rides" do
    found = lines({ by_event: "length", by: { attribute: "plan" }, top: 9 })
    expect(found).to eq({ "short, monthly" => 2, "long, monthly" => 2, "short, yearly" => 1, "not set, yearly" => 1, "not set, not set" => 1, "tour, weekly" => 1 })
    expect(found.values.sum).to eq(8)
  end

  it "is one group of all without a split" do
    expect(lines({}).values).to eq([8])
  end
end
