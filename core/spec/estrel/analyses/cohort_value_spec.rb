# frozen_string_literal: true

# What cohorts brought in against plain Ruby, one person and one event at a time.
RSpec.describe Estrel::Analyses::CohortValue do
  seeds = Checks.seeds(8)

  # The cohort of a person, and what was brought in from then on by period.
  def brought(reference, person, question, analysis, as_of, then_so)
    selected = ->(json) { reference.send(:selected, json, person, as_of, {}) }
    number = ->(row) { analysis.periods.index { |period| reference.day(row[:at]).between?(period[:from], period[:to]) } }
    first = selected.call(question["start"]).first
    cohort = first && reference.send(:all_hold?, then_so, first, person) && number.call(first) or return
    later = selected.call(question["value"]).select { |row| row[:at] >= first[:at] }
    values = later.group_by { |row| number.call(row) - cohort }
    measured = { "times" => :size.to_proc, "people" => ->(_) { 1 } }.fetch(question["value"]["measure"], ->(rows) { rows.sum { |row| row[:price].to_f } })
    [cohort, values.transform_values(&measured), cost(person, as_of, reference)]
  end

  def cost(person, as_of, reference)
    person[:attributes].select { |row| row[:name] == "age" && reference.day(row[:at]) <= as_of }.max_by { |row| row[:at] }&.fetch(:value)
  end

  seeds.each do |seed|
    it "adds up what every cohort brought in as plain Ruby does (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        told = [{}, { "audiences" => [1, 2] }, { "by" => { "attribute" => "plan" }, "top" => 2 }, { "by" => { "grouping" => 1 } }, { "by" => { "grouping" => 2 } }].sample(random: random)
        step, days = [["day", 12], ["week", 60], ["month", 70]].sample(random: random)
        value = [{ "event" => "pass_bought", "property" => "price" }, { "event" => "pass_bought", "measure" => "times" }, { "event" => "pass_bought", "measure" => "people" }].sample(random: random)
        question = { "start" => [{ "event" => "ride_ended" }, { "any_event" => true }, { "event" => "pass_bought" }].sample(random: random), "value" => value, "step" => step,
                     "from" => (one.as_of - days).iso8601, "cost_of" => [nil, "age"].sample(random: random), **told }
        analysis = described_class.ask(question, one.workspace(parts: 3))
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        people = population.people.values.select { |person| reference.exists?(person, one.as_of) }
        answer = analysis.over
        answer.picture[:rows].each do |row|
          theirs = people.select { |person| reference.fits?(row[:group][:people_in], person, one.as_of) }
          found = theirs.filter_map { |person| brought(reference, person, question, analysis, one.as_of, one.then_so(answer, row)) }
          costs = found.map(&:last)
          expect(row[:unpriced]).to eq(question["cost_of"] ? costs.count(&:nil?) : 0), "#{question} #{row[:name]}"
          expect(row[:cost]).to(question["cost_of"] && costs.any? ? be_within(1e-9).of(costs.compact.sum.fdiv(costs.compact.size)) : be_nil, "#{question} #{row[:name]}")
          analysis.periods.each_index do |cohort|
            own = found.select { |number, _| number == cohort }.map { |one| one[1] }
            expect(row[:sizes][cohort]).to eq(own.size), "#{question} #{row[:name]}"
            row[:totals][cohort].each_with_index { |total, period| expect(total).to be_within(1e-9).of(own.sum { |values| values.fetch(period, 0) }), "#{question} #{row[:name]} #{cohort} #{period}" }
          end
          row[:cumulative].each_with_index do |value, period|
            each = (0..period).map do |at|
              told = found.select { |cohort, *| analysis.complete?(cohort, at) }
              told.empty? ? nil : told.sum { |_, values, _| values.fetch(at, 0) }.fdiv(told.size)
            end
            expect(value).to each.any?(&:nil?) ? be_nil : be_within(1e-9).of(each.sum), "#{question} #{row[:name]} so far #{period}"
          end
        end
      end
    end
  end

  def asked(people, question = {}, as_of: Date.new(2026, 3, 31), costs: [], **workspace)
    histories = people.each_with_index.to_h do |rows, index|
      cost = costs[index] ? [{ name: "cost", at: Time.utc(2026, 3, 1), value: costs[index] }] : []
      [index + 1, { events: rows.map { |type, day, price| { type: type, at: Time.utc(2026, 3, day, 9), price: price } }, attributes: cost }]
    end
    types = { "joined" => {}, "paid" => { "price" => "number", "shop" => "text" } }
    with_ledger(Population.new(histories, event_types: types, attributes: { "cost" => "number", "plan" => "text" })) do |ledger|
      question = { "start" => { "event" => "joined" }, "value" => { "event" => "paid", "property" => "price" }, "from" => "2026-03-02", "step" => "week", **question }
      return analysis("cohort-value", question, ledger, as_of: as_of, **workspace).over
    end
  end

  it "counts what came with the start, of cohorts that have had the period, and says when the cost has come back" do
    # Two pay 10 at once and 2 a week later; the third, of the next week, pays 4 at once.
    early = [["joined", 2, nil], ["paid", 2, 10.0], ["paid", 9, 2.0]]
    later = [["joined", 10, nil], ["paid", 10, 4.0], ["paid", 17, nil]]
    people = [[early] * 60, [later] * 40, [[["paid", 3, 99.0], ["joined", 30, nil]]] * 5].flatten(1)
    answer = asked(people, { "cost" => 8 })
    row = answer.picture[:rows].first
    expect(row[:totals].map(&:sum)).to eq([720.0, 160.0, 0.0, 0.0, 0.0])
    expect(row[:cumulative].map { |value| value&.round(9) }).to eq([7.6, 8.8, 8.8, 8.8, nil])
    expect(row[:payback][:at]).to eq(1)
    expect(answer.finding).to start_with("Value per person by week 2 after people first had “joined” events: 8.8 (95% CI ").and end_with("Acquisition cost of 8 paid back by week 1.")
    expect(asked(people, { "cost" => 50 }).finding).to end_with("Acquisition cost of 50 not paid back yet.")
    expect(asked(people, { "value" => { "event" => "paid", "measure" => "times" } }).picture[:rows].first[:totals].map(&:sum)).to eq([120.0, 80.0, 0.0, 0.0, 0.0])
    expect(asked([[["paid", 3, 1.0]]]).finding).to eq("No one started in this period.")
  end

  it "takes what it cost from an attribute of those who have it, and lets its own chance widen when it has come back" do
    people = [[["joined", 2, nil], ["paid", 2, 6.0], ["paid", 9, 2.0]]] * 100
    figures = asked(people, { "cost_of" => "cost" }, costs: Array.new(80) { 7.5 })
    expect(figures.picture[:rows].first).to include(cost: 7.5, unpriced: 20, payback: { at: 1, low: 1, high: 1 })
    expect(figures.caveats.last).to eq("Acquisition cost is unknown for 20 people; the mean of the others is used.")
    apart = asked(people, { "cost_of" => "cost" }, costs: Array.new(100) { |index| index % 20 < 4 ? 30.0 : 0.0 })
    expect(apart.picture[:rows].first).to include(cost: 6.0, payback: { at: 0, low: 0, high: nil })
    expect(asked(people, { "cost_of" => "cost" }).picture[:rows].first).to include(cost: nil, unpriced: 100, payback: nil)
  end

  it "compares by the last period that half of the groups have had, since some are younger" do
    begun = ->(day, price) { [[["joined", day, nil], ["paid", day, price]]] * 60 }
    seasons = Estrel::Audience::OwnSplit.new([[nil, "2026-03-04"], ["2026-03-05", "2026-03-11"], ["2026-03-26", nil]].map do |from, to|
      seen = { "seen" => { "window" => { "from" => from, "to" => to }.compact } }
      Estrel::Audience::OwnSplit::Group.new("from #{from || "the first"}", Estrel::Audience::Definition.parse(seen, catalogue: Population.new({}, event_types: {}).catalogue))
    end)
    stored = Estrel::Analyses::Stored.new.tap { |one| one.define_singleton_method(:grouping) { |_, _| seasons } }
    people = [begun[2, 3.0], begun[9, 5.0], begun[27, 9.0]].flatten(1)
    answer = asked(people, { "by" => { "grouping" => 1 }, "step" => "week" }, stored: stored)
    expect(answer.finding).to match(/\AValue per person by week 2: highest “from 2026-03-05”, 5 .* lowest “from the first”, 3 .* \(2 of 3 groups have enough data\)\.\z/)
    expect(answer.caveats.grep(/Split by/)).to eq([])
    often = asked(people, { "by" => { "grouping" => 1 }, "value" => { "event" => "paid", "measure" => "people" } }, stored: stored)
    expect(often.finding).to eq("No significant difference between groups by week 2.")
    expect(answer.picture[:rows].map { |row| row[:group][:people_in].keys }).to eq([["all"]] * 3)
  end

  it "counts in how many weeks people were there, however often in each" do
    people = [[["joined", 2, nil], ["paid", 2, 1.0], ["paid", 3, 1.0], ["paid", 10, 1.0]], [["joined", 2, nil], ["paid", 10, 1.0]]] * 30
    answer = asked(people, { "value" => { "event" => "paid", "measure" => "people" } })
    expect(answer.picture[:rows].first[:per_person].first(3)).to eq([0.5, 1.0, 0.0])
    expect(answer.finding).to match(/\AWeeks per person in which they had “paid” events by week 3 after .*: 1\.500 \(95% CI .*\)\./)
  end

  it "carries a curve on as it fell: halves go on halving" do
    people = [[["joined", 2, nil], *(0...8).map { |day| ["paid", 2 + day, 64.0 / (2**day)] }]] * 3
    row = asked(people, { "step" => "day" }, as_of: Date.new(2026, 3, 9)).picture[:rows].first
    expect(row[:projection]).to match([127.5, 127.75, 127.875, 127.9375, 127.96875, 127.984375, 127.9921875].map { |value| be_within(1e-9).of(value) })
  end

  it "has intervals of what people bring in that hold the truth nineteen times in twenty" do
    random = Random.new(11)
    held = Array.new(400) do
      blocks = Array.new(20) { Array.new(10) { -Math.log(1 - random.rand) * 5 }.then { |values| [values.sum, values.size] } }
      Estrel::Statistics::Means.jackknife(blocks).then { |low, high| (low..high).cover?(5.0) }
    end
    expect(held.count(true)).to be_between(366, 394)
  end

  it "says that nobody began, and guesses nothing then" do
    nobody = asked([[["paid", 2, 4.0]]])
    expect([nobody.finding, nobody.caveats.grep(/extrapolation/), nobody.picture[:rows][0][:projection]]).to eq(["No one started in this period.", [], []])
  end

  it "refuses what cannot be told, and says why" do
    { { "cost" => 0 } => /the cost must be greater than 0/, { "cost" => 3, "cost_of" => "cost" } => /not both/, { "cost_of" => "plan" } => /no attribute "plan" that is a number/, { "value" => { "event" => "paid", "property" => "shop" } } => /that is a number/,
      { "step" => "day", "from" => "2025-03-02" } => /395 cohorts/ }.each do |question, message|
      expect { asked([[["joined", 2, nil]]], question) }.to raise_error(Estrel::Analyses::Invalid, message)
    end
  end
end
