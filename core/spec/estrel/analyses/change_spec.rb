# frozen_string_literal: true

# Why a number changed, against plain Ruby, one person at a time; and what stands out of made-up histories.
RSpec.describe Estrel::Analyses::Change do
  seeds = Checks.seeds(6)
  let(:rides) { { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 1 }] } }

  seeds.each do |seed|
    it "counts each group of both periods as plain Ruby does, opens into whoever did it, and adds up (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        at = one.as_of - 14 - random.rand(20)
        question = { "of" => rides, "measure" => %w[people times].sample(random: random), "step" => %w[day week].sample(random: random), "at" => at.iso8601, "audiences" => [1, 2] }
        analysis = described_class.ask(question, one.workspace(parts: 3))
        answer = analysis.over
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        people = population.people.values
        done = [0, 1].map do |period|
          people.sum do |person|
            count = person[:events].count { |row| analysis.days(period).cover?(reference.day(row[:at])) && row[:type] == "ride_ended" && row[:km].to_f >= 1 }
            question["measure"] == "people" ? [count, 1].min : count
          end
        end
        total = answer.picture[:total]
        expect([total[:before], total[:after]]).to eq(done), question.to_s
        answer.picture[:splits].each { |split| expect(split.values_at(:size, :mix, :behaviour).sum).to be_within(1e-6).of(total[:change]), "#{question} #{split}" }
        next unless question["measure"] == "people"

        answer.tables.last.rows.each do |row|
          row.cells.each do |column, json|
            told = people.count { |person| reference.exists?(person, one.as_of) && reference.fits?({ "all" => [json] }, person, one.as_of) }
            expect(told).to eq(row.values[column == "y_0" ? 3 : 5]), "#{question} #{row.values.first(2)} #{json}"
          end
        end
      end
    end
  end

  # Two weeks of people who ride with a chance of their own; of those of a quarter it falls in the second week.
  def made_up(seed, people: 1_000, fall: 1.0, quarters: %w[north south east west], attributes: 4)
    random = Random.new(seed)
    start = Time.utc(2026, 6, 1, 9) # a Monday
    named = Array.new(attributes) { |number| "a#{number}" }
    made = (1..people).to_h do |id|
      quarter = quarters.sample(random: random)
      chance = random.rand
      weeks = [chance, chance * (quarter == "west" ? fall : 1.0)]
      events = weeks.each_with_index.flat_map { |likely, week| random.rand < likely ? [{ type: "ride_ended", at: start + (((week * 7) + 7 + random.rand(7)) * 86_400) }] : [] }
      known = [{ name: "quarter", at: start, value: quarter }, *named.map { |name| { name: name, at: start, value: %w[x y z].sample(random: random) } }]
      [id, { events: [{ type: "app_opened", at: start }, *events], attributes: known }]
    end
    population = Population.new(made, event_types: { "ride_ended" => {}, "app_opened" => {} }, attributes: { "quarter" => "text", **named.to_h { |name| [name, "text"] } })
    with_ledger(population) { |ledger| return analysis("change", { "of" => { "event" => "ride_ended" }, "at" => "2026-06-15" }, ledger, as_of: Date.new(2026, 6, 21)).over }
  end

  it "finds the one cause that was planted, says how much of the change it is, and nothing where there is none" do
    found = made_up(11, fall: 0.3)
    expect(found.finding).to eq("Number of people who ended a ride: −21% (−104, 95% CI −142 to −66), from 498 (8 Jun to 14 Jun 2026) to 394 (15 Jun to 21 Jun 2026). " \
                                "Main driver: quarter “west”, 80 fewer than if it had changed like the rest (95% CI 62 to 98).")
    expect(found.picture[:reasons].count { |reason| reason[:clear] }).to eq(1)
    expect(made_up(12).finding).to match(/no significant change .* No significant driver among \d+ reasons tested\.\z/)
  end

  it "leaves out what has one value only, and says so" do
    told = made_up(13, people: 200, quarters: %w[west], attributes: 1)
    expect(told.picture[:splits].map { |split| split[:name] }).to all(satisfy { |name| !name.match?(/quarter/i) })
    expect(told.caveats.last).to match(/\d splits? with a single value are not shown\./)
  end

  it "has something stand out in at most one of twenty histories without any cause" do
    wrong = (1..40).count { |seed| made_up(1_000 + seed, people: 400, attributes: 6).picture[:reasons].any? { |reason| reason[:clear] } }
    expect(wrong).to be <= 5 # 2 expected; more in 2 of 100 times
  end

  it "refuses periods that have not ended or not begun" do
    population = Population.new({ 1 => { events: [{ type: "ride_ended", at: Time.utc(2026, 6, 3) }], attributes: [] } }, event_types: { "ride_ended" => {} })
    with_ledger(population) do |ledger|
      { "2026-06-20" => /has not ended/, "2026-07-30" => /ends .* before it starts/ }.each do |at, message|
        expect { analysis("change", { "of" => { "event" => "ride_ended" }, "at" => at }, ledger, as_of: Date.new(2026, 6, 20)).over }.to raise_error(Estrel::Analyses::Invalid, message)
      end
    end
  end
end
