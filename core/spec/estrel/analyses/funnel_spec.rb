# frozen_string_literal: true

# Funnels against plain Ruby: every chain of steps is gone through, one person at a time.
RSpec.describe Estrel::Analyses::Funnel do
  seeds = Checks.seeds(10)

  # The steps that lead to one, itself included.
  def way(question, at) = [*question["steps"].first(at).reject { |step| step["optional"] }, question["steps"][at]]

  # All chains of a person, each as the instants of its steps and the visit of the first.
  def chains(reference, person, question, as_of, days, steps = question["steps"].reject { |step| step["optional"] }, then_so: [])
    first, *rest = steps
    selected = ->(step) { reference.send(:selected, step, person, as_of, { "from" => question["from"] }) }
    begun = selected.call(first).select { |row| days.cover?(reference.day(row[:at])) && reference.send(:all_hold?, then_so, row, person) }.zip
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

  # Of the chains that get furthest, the one that ends first; of these, the one that starts last; of these, the one whose
  # steps come earliest.
  def waits(levels)
    furthest = levels.rindex(&:any?) or return []
    chain = levels[furthest].map { |rows| rows.map { |row| row[:at] } }.min_by { |times| [times.last, -times.first.to_r, *times[1..].map(&:to_r)] }
    chain.each_cons(2).map { |one, other| other - one }
  end

  def quantile(values, share)
    place = share * (values.size - 1)
    values.sort.values_at(place.floor, place.ceil).then { |low, high| low + ((high - low) * (place - place.floor)) }
  end

  seeds.each do |seed|
    it "counts who got to each step, and how long it took, as plain Ruby does (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        rides = { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 1 }] }
        others = [{ "event" => "pass_bought" }, { "any_event" => true }, { "event" => "ride_ended", "without" => %w[pass_bought message_opened] }, { "events" => %w[message_opened ride_ended] }]
        visit = random.rand < 0.3 ? { "same_visit" => true, "counted" => %w[people visits].sample(random: random) } : {}
        between = Array.new(random.rand(3)) { { **others.sample(random: random), **(random.rand < 0.4 ? { "optional" => true } : {}) } }
        question = { "steps" => [rides, *between, others.sample(random: random)], "from" => (one.as_of - random.rand(60)).iso8601,
                     "within" => [nil, { "days" => 9 }, { "hours" => 30 }].sample(random: random), "over_time" => random.rand < 0.5, "step" => "week", **visit,
                     **[{}, { "audiences" => [1, 2] }, { "by" => { "attribute" => "plan" }, "top" => 2 }, { "by" => { "grouping" => 1 } }, { "by" => { "grouping" => 2 } }].sample(random: random) }.compact
        answer = described_class.ask(question, one.workspace(parts: 3)).over
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        people = population.people.values.select { |person| reference.exists?(person, one.as_of) }
        from = Date.iso8601(question["from"])
        answer.picture[:rows].each do |row|
          then_so = one.then_so(answer, row)
          theirs = people.select { |person| reference.fits?(row[:group][:people_in], person, one.as_of) }
                         .to_h { |person| [person, chains(reference, person, question, one.as_of, from..one.as_of, then_so: then_so)] }
          ended = ->(steps, days = from..one.as_of) { theirs.sum { |person, _| units(reference, person, chains(reference, person, question, one.as_of, days, steps, then_so: then_so).last, question["counted"]) } }
          expected = Array.new(question["steps"].size) { |at| ended.call(way(question, at)) }
          expect(row[:steps].map { |step| step[:people] }).to eq(expected), question.to_s
          went_on = question["steps"].each_with_index.map { |step, at| step["optional"] ? ended.call([*way(question, at), question["steps"].drop(at + 1).find { |later| !later["optional"] }]) : nil }
          expect(row[:steps].map { |step| step[:went_on] }).to eq(went_on), question.to_s
          all = theirs.values.map { |levels| waits(levels) }
          needed = question["steps"].each_index.reject { |at| question["steps"][at]["optional"] }
          needed.each_with_index.drop(1).each do |at, number|
            own = all.filter_map { |times| times[number - 1] }
            edges = [0, *Estrel::Analyses::Waits::BARS, Float::INFINITY].each_cons(2).map { |low, high| own.count { |wait| wait >= low && wait < high } }
            expect(row[:steps][at][:spread] || edges.map { 0 }).to eq(edges), "#{question} #{at}"
            expect(row[:steps][at][:wait]&.fetch(:upper)).to own.empty? ? be_nil : be_within(1e-6).of(quantile(own, 0.75)), "#{question} #{at}"
          end
          answer.picture[:periods]&.each_with_index do |period, index|
            counts = Array.new(expected.size) { |at| ended.call(way(question, at), [period[:from], from].max..period[:to]) }
            expect(row[:over][index]).to eq(counts), "#{question} #{period}"
          end
        end
      end
    end
  end

  it "measures exactly how long steps took, of whatever parts, and after some have been taken away", :aggregate_failures do
    seed = Checks.seed
    random = Random.new(seed)
    marks = Estrel::Analyses::Waits::BARS.map { |seconds| seconds * 1_000_000 }
    lists = Array.new(4) { Array.new(random.rand(1..300)) { [random.rand(3), random.rand(3).zero? ? marks.sample(random: random) + random.rand(-1..1) : (10**(random.rand * 15)).round] } }
    placed = lists.map { |rows| Estrel::Analyses::Waits.placed(Polars::DataFrame.new({ "code" => rows.map(&:first), "wait" => rows.map(&:last) })) }
    sum = Estrel::Analyses::Sum
    counts = placed.map { |part| Estrel::Analyses::Waits.counted(part) }
    waits = Estrel::Analyses::Waits.new(sum.renewed(counts.first(3).reduce { |one, other| sum.of(one, other) }, counts[0], counts[3]), [0.25, 0.5, 0.75])
    near = placed.map { |part| Estrel::Analyses::Waits.near(part, waits.sought) }
    renewed = sum.renewed(near.first(3).reduce { |one, other| sum.of(one, other) }, near[0], near[3])
    (0..3).each do |code|
      own = lists.drop(1).flatten(1).filter_map { |other, wait| wait if other == code }
      [0.25, 0.5, 0.75].each { |share| expect(waits.quantile(code, share, renewed)).to eq(own.empty? ? nil : quantile(own, share).fdiv(1_000_000)), "seed #{seed}" }
      edges = [0, *marks, Float::INFINITY].each_cons(2).map { |low, high| own.count { |wait| wait >= low && wait < high } }
      expect(waits.spread(code)).to own.empty? ? be_nil : eq(edges), "seed #{seed}"
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

  it "measures times by the earliest event of each step from which the end can still be reached" do
    median = ->(answer) { answer.picture[:rows][0][:steps].drop(1).map { |step| step[:wait][:median] } }
    rides = [["plan", 0], ["plan", 10], ["ride", 11], ["ride", 15], ["pay", 19], ["pay", 30]]
    expect(median.call(asked([rides]))).to eq([60, 480])
    expect(median.call(asked([rides], { "within" => { "minutes" => 10 } }))).to eq([60, 480])
    steps = [{ "event" => "plan" }, { "event" => "ride" }, { "event" => "pay", "without" => ["letter"] }]
    interrupted = [["plan", 0], ["ride", 1], ["letter", 2], ["ride", 3], ["ride", 4], ["pay", 7]]
    expect(median.call(asked([interrupted], { "steps" => steps }))).to eq([180, 240])
  end

  it "says where nobody began, where all went on, and takes no time that is none" do
    expect(asked([[["ride", 0]]]).finding).to eq("No one entered the funnel in this period.")
    expect(asked([[["ride", 0]]]).picture[:rows][0][:steps].map { |step| step.values_at(:people, :share, :wait) }).to all(eq([0, nil, nil]))
    all = asked([[["plan", 0], ["ride", 1], ["pay", 2]]] * 60)
    expect(all.picture[:rows][0][:steps].map { |step| step.values_at(:people, :share, :lost) }).to eq([[60, 1.0, 0], [60, 1.0, 0], [60, 1.0, nil]])
    expect { asked([[["plan", 0]]], { "within" => { "minutes" => 0 } }) }.to raise_error(Estrel::Analyses::Invalid, /from 1 to/)
  end

  it "lets nobody be kept from going on by a step that may be skipped, and says who went on from it" do
    steps = [{ "event" => "plan" }, { "event" => "letter", "optional" => true }, { "event" => "ride" }, { "event" => "pay" }]
    answer = asked([[["plan", 0], ["letter", 1], ["ride", 2], ["pay", 3]], [["plan", 0], ["ride", 2]], [["plan", 0], ["ride", 2], ["letter", 3], ["pay", 5]], [["plan", 0], ["letter", 1]]], { "steps" => steps })
    expect(people(answer)).to eq([4, 3, 3, 2])
    expect(answer.picture[:rows][0][:steps].map { |step| step.values_at(:lost, :went_on) }).to eq([[1, nil], [nil, 1], [1, nil], [nil, nil]])
    expect(answer.tables[0].rows[1].values[0]).to eq("had “letter” events (may be skipped)")
    expect(answer.tables[0].rows[0].cells["lost_0"]["all"][1]["not"]["order"]["steps"].map { |step| step["event"] }).to eq(%w[plan ride])
    expect(answer.tables[1].rows.to_h { |row| [row.values[0], row.values.drop(1)] }).to include("less than 1 min" => [0, 0], "1 min to 10 min" => [3, 2], "1 day to 3 days" => [0, 0])
  end

  it "says where most are lost, how soon others go on, and opens those who stopped" do
    rows = Array.new(90) { |number| [["plan", 0], *([["ride", 10]] if number < 60), *([["pay", 40]] if number < 45)] }
    answer = asked(rows)
    expect(answer.finding).to eq("50% (95% CI 40% to 60%) of 90 people who had “plan” events completed the funnel (had “pay” events). Largest drop-off: after they had “plan” events, 33% (30 people); median time to the next step 10 min.")
    stopped = answer.tables.first.rows[1].cells["lost_0"]
    expect(stopped["all"].map(&:keys)).to eq([["order"], ["not"]])
    expect(asked([[["ride", 0]]]).finding).to eq("No one entered the funnel in this period.")
  end

  it "names the step at which two groups differ most, and says nothing where chance explains it" do
    rows = Array.new(160) { |number| [["plan", 0], ["ride", 10], *(number < 100 ? [["pay", 40]] : [])] }
    by = { "by" => { "attribute" => "group" } }
    expect(asked(rows, by, groups: Array.new(160) { |number| number.even? ? "a" : "b" }).finding).to eq("No significant difference between “a” and “b” at any step.")
    expect(asked(rows, by, groups: Array.new(160) { |number| number < 80 ? "a" : "b" }).finding)
      .to match(/\ALargest difference: step 3 \(had “pay” events\), 100% of “a” vs 25% of “b” \(95% CI of the difference −8\d.* to −6\d.* pp\)\.\z/)
  end

  it "refuses what cannot be told, and says why" do
    steps = [{ "event" => "plan" }, { "event" => "ride" }]
    { { "from" => "2026-04-02" } => /after the as-of date/, { "counted" => "visits" } => /counting visits requires all steps in one visit/, { "steps" => [{ "event" => "plan", "without" => ["ride"] }, *steps] } => /before the first step/,
      { "steps" => [*steps, { "event" => "walk" }] } => /walk/, { "steps" => [*steps, { "event" => "pay", "optional" => true }] } => /the first and last step cannot be optional/, { "over_time" => true, "step" => "day", "from" => "2025-12-01" } => /121 days; look at longer steps/ }.each do |question, message|
      expect { asked([[["plan", 0]]], question) }.to raise_error(Estrel::Analyses::Invalid, message)
    end
  end
end
