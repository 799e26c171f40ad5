# frozen_string_literal: true

# Next events against plain Ruby: every way is walked again, one person and one instant at a time.
RSpec.describe Estrel::Analyses::NextEvents do
  seeds = Checks.seeds(8)

  # The events at the next instant of somebody, as far as they may follow.
  def following(reference, person, event, question)
    after = question["direction"] != "before"
    looked_at = person[:events].select { |row| question["among"].nil? || question["among"].include?(row[:type]) }
    others = looked_at.select { |row| after ? row[:at] > event[:at] : row[:at] < event[:at] }
    at = others.map { |row| row[:at] }.then { |times| after ? times.min : times.max }
    others.select { |row| row[:at] == at && may?(reference, person, event, row, question["within"]) }
  end

  def may?(reference, person, event, row, within)
    if within
      return (row[:at] - event[:at]).abs <= within.values.first * { "hours" => 3600, "days" => 86_400 }.fetch(within.keys.first)
    end

    visits = [event, row].map { |one| reference.send(:visit, person, one) }
    visits.none?(&:nil?) && visits.uniq.one?
  end

  # Ways by their event types: how often, by whom, and how long the last step took.
  def walked(reference, person, anchors, question, to)
    found = Hash.new { |hash, way| hash[way] = [] }
    level = anchors.map { |event| [[], event, event] }
    question["depth"].times do
      level = level.flat_map do |way, event, anchor|
        after = following(reference, person, event, question).select { |row| reference.day(row[:at]) <= to }
        after.uniq { |row| row[:type] }.map { |row| [[*way, row[:type]], row, anchor, (row[:at] - event[:at]).abs] }
      end
      level = level.uniq { |way, _, anchor| [way, anchor.object_id] }
      level.each { |way, *, wait| found[way] << wait }
    end
    found
  end

  def branches(list, before = []) = list.flat_map { |branch| [[[*before, branch[:event]], branch], *branches(branch[:branches], [*before, branch[:event]])] }

  def median(waits) = waits.sort.then { |sorted| (sorted[(sorted.size - 1) / 2] + sorted[sorted.size / 2]).to_f / 2 }

  seeds.each do |seed|
    it "finds the ways, how often and how soon, and the people that plain Ruby finds (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        from = one.as_of - random.rand(70)
        selection = [{ "event" => "ride_ended" }, { "any_event" => true }, { "event" => "pass_bought", "where" => [{ "property" => "price", "compare" => "at_least", "value" => 1 }] }].sample(random: random)
        question = { "from" => from.iso8601, "event" => selection, "depth" => 1 + random.rand(3), "direction" => %w[after before].sample(random: random),
                     "within" => [nil, { "days" => 4 }, { "hours" => 30 }].sample(random: random), "among" => [nil, ["pass_bought"], %w[message_opened ride_ended]].sample(random: random) }
        question["who"] = [nil, { "audience" => { "id" => 1 } }, { "lifecycle" => { "is" => %w[active churned] } }].sample(random: random)
        stub_const("Estrel::Analyses::NextEvents::TOP", 50)
        picture = described_class.ask(question.compact, one.workspace(parts: 3)).over.picture
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        theirs = population.people.values.select { |person| question["who"].nil? || (reference.exists?(person, one.as_of) && reference.fits?(question["who"], person, one.as_of)) }
        ways = theirs.map do |person|
          window = { "from" => from.iso8601, "to" => one.as_of.iso8601 }
          anchors = reference.send(:selected, selection, person, one.as_of, window)
          [anchors, walked(reference, person, anchors, question, one.as_of)]
        end
        anchors = ways.map(&:first)
        expect(picture.values_at(:times, :people)).to eq([anchors.sum(&:size), anchors.count(&:any?)])
        expected = ways.flat_map { |_, found| found.keys }.uniq
        found = branches(picture[:branches]).to_h
        expect(found.keys).to match_array(expected), "seed #{seed} #{question}"
        found.each do |way, branch|
          waits = ways.map { |_, theirs| theirs.fetch(way, []) }
          expect(branch.values_at(:times, :people)).to eq([waits.sum(&:size), waits.count(&:any?)]), "#{question} #{way}"
          expect(branch[:wait]).to be_within(1e-6).of(median(waits.flatten)), "#{question} #{way}"
        end
      end
    end
  end

  def asked(rows, question = {})
    events = rows.map { |type, minute| { type: type, at: Time.utc(2026, 3, 2, 9) + (minute * 60) } }
    types = %w[plan ride pay letter].to_h { |name| [name, {}] }
    with_ledger(Population.new({ 1 => { events: events, attributes: [] } }, event_types: types, system: %w[letter])) do |ledger|
      return analysis("next-events", { "event" => { "event" => "plan" }, "depth" => 1, **question }, ledger, as_of: Date.new(2026, 3, 31)).over
    end
  end

  def told(answer) = answer.picture.then { |picture| [picture[:times], picture[:ended], picture[:branches].to_h { |branch| [branch[:event], branch[:times]] }] }

  it "takes what is tied as next each, ends with the visit or the time, and a message in between is next" do
    expect(told(asked([["plan", 0], ["ride", 5], ["pay", 5]]))).to eq([1, 0, { "ride" => 1, "pay" => 1 }])
    expect(told(asked([["plan", 0], ["plan", 0], ["ride", 31]]))).to eq([2, 2, {}])
    expect(told(asked([["plan", 0], ["plan", 0], ["ride", 3]]))).to eq([2, 0, { "ride" => 2 }])
    expect(told(asked([["plan", 0], ["ride", 31]], "within" => { "minutes" => 31 }))).to eq([1, 0, { "ride" => 1 }])
    expect(told(asked([["plan", 0], ["ride", 31]], "within" => { "minutes" => 30 }))).to eq([1, 1, {}])
    expect(told(asked([["plan", 0], ["letter", 2], ["ride", 5]]))).to eq([1, 1, {}])
    expect(told(asked([["plan", 0], ["letter", 2], ["ride", 5]], "within" => { "days" => 1 }))).to eq([1, 0, { "letter" => 1 }])
    expect(told(asked([["ride", 0], ["plan", 3], ["plan", 6]], "direction" => "before"))).to eq([2, 0, { "ride" => 1, "plan" => 1 }])
    expect(asked([["plan", 0], ["ride", 5]]).finding)
      .to eq("Most frequent next event: “ride”, 100% of 1 occurrence (1 person, median 5 min later). No further event in the same visit: 0%.")
    expect { asked([["plan", 0]], "from" => "2026-04-02") }.to raise_error(Estrel::Analyses::Invalid, /after the as-of date/)
    expect { asked([["plan", 0]], "who" => { "did" => { "event" => "walk" } }) }.to raise_error(Estrel::Analyses::Invalid, /walk/)
  end

  it "looks back beyond the first day of the range, as the people of each branch do" do
    day = 24 * 60
    rows = [["ride", 10 * day], ["plan", (10 * day) + 5], ["pay", 20 * day], ["plan", (20 * day) + 3], ["ride", (20 * day) + 5]]
    [{}, { "within" => { "days" => 15 } }].each do |more|
      answer = asked(rows, "direction" => "before", "from" => "2026-03-22", "depth" => 2, **more)
      expect(told(answer)).to eq([1, 0, { "pay" => 1 }])
      expect(answer.picture[:branches].first[:branches].map { |branch| branch[:event] }).to eq(more.empty? ? [] : ["plan"])
    end
    midnight = [["ride", (15 * 60) - 1], ["plan", (15 * 60) + 1]]
    expect(told(asked(midnight, "direction" => "before", "from" => "2026-03-03"))).to eq([1, 0, { "ride" => 1 }])
  end

  it "counts system messages, which nothing follows within a visit" do
    answer = asked([["letter", 0], ["letter", 0], ["ride", 2]], "event" => { "event" => "letter" })
    expect([told(answer), answer.caveats]).to match([[2, 2, {}], [/System messages belong to no visit/]])
    expect(told(asked([["letter", 0], ["ride", 2]], "event" => { "event" => "letter" }, "within" => { "days" => 1 }))).to eq([1, 0, { "ride" => 1 }])
  end

  it "passes over what is not looked at" do
    expect(told(asked([["plan", 0], ["ride", 1], ["plan", 2], ["pay", 3], ["ride", 3]], "among" => ["pay"]))).to eq([2, 0, { "pay" => 2 }])
    expect(told(asked([["pay", 0], ["plan", 0], ["ride", 1], ["pay", 40]], "among" => %w[pay letter]))).to eq([1, 1, {}])
    expect(asked([["plan", 0], ["ride", 5]], "among" => %w[pay letter]).finding).to eq("None of the selected events in the same visit: 100% of 1 occurrence.")
    expect { asked([["plan", 0]], "among" => ["walk"]) }.to raise_error(Estrel::Analyses::Invalid, /walk/)
  end

  it "puts beyond the most frequent the others together" do
    rows = (0..9).flat_map { |number| [["plan", number * 100], ["ride", (number * 100) + 1]] }
    stub_const("Estrel::Analyses::NextEvents::TOP", 1)
    picture = asked([*rows, ["plan", 2000], ["pay", 2001]]).picture
    expect([picture[:branches].map { |branch| branch[:event] }, picture[:other]]).to eq([["ride"], { types: 1, times: 1 }])
  end
end
