# frozen_string_literal: true

# Funnels against plain Ruby: every chain of steps is gone through, one person at a time.
RSpec.describe Estrel::Analyses::Funnel do
  seeds = ENV["ANALYSIS_SEED"] ? [Integer(ENV["ANALYSIS_SEED"])] : Array.new(10) { Random.rand(1 << 32) }

  # All chains of a person, each as the instants of its steps and the visit of the first.
  def chains(reference, person, question, as_of, from, to)
    first, *rest = question["steps"]
    selected = ->(step) { reference.send(:selected, step, person, as_of, { "from" => question["from"] }) }
    begun = selected.call(first).select { |row| reference.day(row[:at]).between?(from, to) }.zip
    rest.reduce([begun]) do |levels, step|
      levels << levels.last.flat_map { |chain| selected.call(step).select { |row| goes_on?(reference, person, question, step, chain, row) }.map { |row| [*chain, row] } }
    end
  end

  def goes_on?(reference, person, question, step, chain, row)
    before = chain.last[:at]
    within = question["within"]&.values&.first
    row[:at] > before && (within.nil? || row[:at] - chain.first[:at] <= within * { "days" => 86_400, "hours" => 3_600 }.fetch(question["within"].keys.first)) &&
      (!question["same_visit"] || [chain.first, row].map { |one| reference.send(:visit, person, one) }.then { |one, other| one && one == other }) &&
      (step["without"] || []).none? { |type| person[:events].any? { |one| one[:type] == type && one[:at] > before && one[:at] < row[:at] } }
  end

  def units(reference, person, level, counted)
    counted == "visits" ? level.filter_map { |chain| reference.send(:visit, person, chain.last) }.uniq.size : [level.size, 1].min
  end

  # Of the chain that gets furthest, of these the one that ends first, of these the one that starts last, and so on back.
  def waits(levels)
    furthest = levels.rindex(&:any?) or return []
    chain = levels[furthest].map { |rows| rows.map { |row| row[:at] } }.min_by { |times| [times.last, *times[..-2].reverse.map { |time| -time.to_r }] }
    chain.each_cons(2).map { |one, other| other - one }
  end

  def quantile(values, share)
    place = share * (values.size - 1)
    values.sort.values_at(place.floor, place.ceil).then { |low, high| low + ((high - low) * (place - place.floor)) }
  end

  seeds.each do |seed|
    it "counts who got to each step, and how long it took, as plain Ruby does (ANALYSIS_SEED=#{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        rides = { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 1 }] }
        others = [{ "event" => "pass_bought" }, { "any_event" => true }, { "event" => "ride_ended", "without" => %w[pass_bought message_opened] }, { "events" => %w[message_opened ride_ended] }]
        visit = random.rand < 0.3 ? { "same_visit" => true, "counted" => %w[people visits].sample(random: random) } : {}
        question = { "steps" => [rides, *Array.new(1 + random.rand(3)) { others.sample(random: random) }], "from" => (one.as_of - random.rand(60)).iso8601,
                     "within" => [nil, { "days" => 9 }, { "hours" => 30 }].sample(random: random), "over_time" => random.rand < 0.5, "step" => "week", **visit,
                     **[{}, { "audiences" => [1, 2] }, { "by" => { "attribute" => "plan" }, "top" => 2 }].sample(random: random) }.compact
        answer = described_class.ask(question, one.workspace(parts: 3)).over
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        people = population.people.values.select { |person| reference.exists?(person, one.as_of) }
        from = Date.iso8601(question["from"])
        told = people.to_h { |person| [person, chains(reference, person, question, one.as_of, from, one.as_of)] }
        answer.picture[:rows].each do |row|
          theirs = told.select { |person, _| reference.fits?(row[:group][:people_in], person, one.as_of) }
          expected = Array.new(question["steps"].size) { |at| theirs.sum { |person, levels| units(reference, person, levels[at], question["counted"]) } }
          expect(row[:steps].map { |step| step[:people] }).to eq(expected), question.to_s
          all = theirs.values.map { |levels| waits(levels) }
          row[:steps].each_index.drop(1).each do |at|
            own = all.filter_map { |times| times[at - 1] }
            expect(row[:steps][at][:wait]&.fetch(:upper)).to own.empty? ? be_nil : be_within(1e-6).of(quantile(own, 0.75)), "#{question} #{at}"
          end
          answer.picture[:periods]&.each_with_index do |period, index|
            counts = Array.new(expected.size) do |at|
              theirs.sum { |person, _| units(reference, person, chains(reference, person, question, one.as_of, [period[:from], from].max, period[:to])[at], question["counted"]) }
            end
            expect(row[:over][index]).to eq(counts), "#{question} #{period}"
          end
        end
      end
    end
  end

  def asked(rows, question = {}, groups: [])
    histories = rows.each_with_index.to_h do |events, index|
      group = { name: "group", at: Time.utc(2026, 3, 1), value: groups[index] }
      [index + 1, { events: events.map { |type, minute| { type: type, at: Time.utc(2026, 3, 2, 9) + (minute * 60) } }, attributes: groups.any? ? [group] : [] }]
    end
    types = %w[plan ride pay letter].to_h { |name| [name, {}] }
    with_ledger(Population.new(histories, event_types: types, attributes: { "group" => "text" }, system: %w[letter])) do |ledger|
      steps = %w[plan ride pay].map { |type| { "event" => type } }
      return analysis("funnel", { "steps" => steps, "from" => "2026-03-01", **question }, ledger, as_of: Date.new(2026, 3, 31)).over
    end
  end

  def people(answer) = answer.picture[:rows][0][:steps].map { |step| step[:people] }

  it "goes on only to what is later, within the time from the first, and lets an earlier start be replaced by a later one" do
    expect(people(asked([[["plan", 0], ["ride", 0], ["pay", 5]], [["plan", 0], ["ride", 1], ["pay", 1]]]))).to eq([2, 1, 0])
    within = { "within" => { "minutes" => 10 } }
    expect(people(asked([[["plan", 0], ["ride", 8], ["pay", 11]], [["plan", 0], ["ride", 3], ["pay", 10]], [["plan", 0], ["plan", 4], ["ride", 8], ["pay", 13]]], within))).to eq([3, 3, 2])
    expect(people(asked([[["plan", 0], ["ride", 1], ["letter", 2], ["pay", 3]], [["plan", 0], ["ride", 1], ["pay", 3]]], { "steps" => [{ "event" => "plan" }, { "event" => "ride" }, { "event" => "pay", "without" => ["letter"] }] }))).to eq([2, 2, 1])
    twice = { "steps" => [{ "event" => "ride" }, { "event" => "ride" }] }
    expect(people(asked([[["ride", 0]], [["ride", 0], ["ride", 0]], [["ride", 0], ["ride", 1]]], twice))).to eq([3, 1])
    expect(people(asked([[["plan", 0], ["ride", 20], ["pay", 45]], [["plan", 0], ["ride", 31], ["pay", 32]]], { "same_visit" => true }))).to eq([2, 1, 1])
  end

  it "says where most are lost, how soon others go on, and opens those who stopped" do
    rows = Array.new(90) { |number| [["plan", 0], *([["ride", 10]] if number < 60), *([["pay", 40]] if number < 45)] }
    answer = asked(rows)
    expect(answer.finding).to eq("Of 90 people who had “plan” events, 50% (95% interval 40% to 60%) went on to the end: they had “pay” events. Most stop after they had “plan” events: 30, 33% of those who got there; whoever goes on takes 10 min in the median.")
    stopped = answer.tables.first.rows[1].cells["lost_0"]
    expect(stopped["all"].map(&:keys)).to eq([["order"], ["not"]])
    expect(asked([[["ride", 0]]]).finding).to eq("Nobody took the first step in these days.")
  end

  it "names the step at which two groups differ most, and says nothing where chance explains it" do
    rows = Array.new(160) { |number| [["plan", 0], ["ride", 10], *(number < 100 ? [["pay", 40]] : [])] }
    by = { "by" => { "attribute" => "group" } }
    expect(asked(rows, by, groups: Array.new(160) { |number| number.even? ? "a" : "b" }).finding).to eq("“a” and “b” do not differ beyond chance at any step.")
    expect(asked(rows, by, groups: Array.new(160) { |number| number < 80 ? "a" : "b" }).finding)
      .to match(/\A“a” and “b” differ most at step 3: 100% and 25% of those who began had “pay” events \(95% interval of the difference: −8\d.* to −6\d.* points\)\.\z/)
  end

  it "refuses what cannot be told, and says why" do
    steps = [{ "event" => "plan" }, { "event" => "ride" }]
    { { "from" => "2026-04-02" } => /after the as-of date/, { "counted" => "visits" } => /all steps lie in one visit/, { "steps" => [{ "event" => "plan", "without" => ["ride"] }, *steps] } => /before the first step/,
      { "steps" => [*steps, { "event" => "walk" }] } => /walk/, { "over_time" => true, "step" => "day", "from" => "2025-12-01" } => /121 days; look at longer steps/ }.each do |question, message|
      expect { asked([[["plan", 0]]], question) }.to raise_error(Estrel::Analyses::Invalid, message)
    end
  end
end
