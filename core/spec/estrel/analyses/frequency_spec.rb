# frozen_string_literal: true

# Frequency against plain Ruby, one person at a time.
RSpec.describe Estrel::Analyses::Frequency do
  seeds = Checks.seeds(8)

  # How often somebody did it, by what is counted.
  def number(reference, person, rows, unit)
    case unit
    when "events" then rows.size
    when "days" then rows.map { |row| reference.day(row[:at]) }.uniq.size
    when "weeks" then rows.map { |row| reference.day(row[:at]).then { |day| day - (day.cwday - 1) } }.uniq.size
    else rows.filter_map { |row| reference.send(:visit, person, row) }.uniq.size
    end
  end

  seeds.each_with_index do |seed, place|
    it "puts everybody into the bucket that plain Ruby does, in each group, before and period by period (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        from = one.as_of - random.rand(60)
        behind = ["previous", "year", nil].sample(random: random)
        unit = Estrel::Audience::Count::UNITS[place % 4]
        edges = [[1, 2, 3, 5], [1], [2, 4]].sample(random: random)
        told = [{}, { "audiences" => [1, 2] }, *[{ "by" => { "attribute" => "plan" }, "top" => 2 }] * 3, { "by" => { "grouping" => 1 } }, { "by" => { "grouping" => 2 } }].sample(random: random)
        question = { "series" => [{ "any_event" => true }, { "event" => "ride_ended" }].first(told.empty? ? 2 : 1), "unit" => unit, "edges" => edges, "from" => from.iso8601,
                     "of_all" => random.rand < 0.3, "over_time" => true, "step" => "day", **(behind ? { "behind" => behind } : {}), **told }
        answer = described_class.ask(question, one.workspace(parts: 3)).over
        picture = answer.picture
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })

        picture[:rows].each_with_index do |row, index|
          cell = answer.tables.first.rows.last.cells["people_#{index}"]
          did = [cell, *cell["all"]].filter_map { |condition| condition["did"] }.first
          people = population.people.values.select { |person| reference.exists?(person, one.as_of) && reference.fits?(row[:group][:people_in], person, one.as_of) }
          numbers = lambda do |first, last|
            window = { "from" => first.iso8601, "to" => last.iso8601 }
            people.map { |person| number(reference, person, reference.send(:selected, did, person, one.as_of, window), unit) }
          end
          counts = ->(found, buckets) { buckets.map { |bucket| found.count { |number| (bucket[:from]..bucket[:to]).cover?(number) } } }
          shares = ->(found) { found.sum.zero? ? found.map { nil } : found.map { |count| count.fdiv(found.sum) } }
          now = numbers.call(from, one.as_of)
          about = "#{question} #{row[:name]}"
          expect(row[:counts]).to eq(counts.call(now, picture[:buckets])), about
          expect(row[:shares]).to eq(shares.call(row[:counts])), about
          expect(did["where"]).to eq(one.then_so(answer, row)), about
          days = behind == "year" ? 364 : (one.as_of - from).to_i + 1
          expect(row[:behind]).to eq(behind && shares.call(counts.call(numbers.call(from - days, one.as_of - days), picture[:buckets]))), about
          of_those = picture[:buckets].reject { |bucket| bucket[:to]&.zero? }
          expect(row[:over]).to eq(picture[:periods].map { |period| shares.call(counts.call(numbers.call(period[:from], period[:to]), of_those)) }), about
          did = now.select(&:positive?).sort
          expect(row[:mean]).to eq(did.empty? ? nil : did.sum.fdiv(did.size)), about
          expect(row[:median]).to eq(did.empty? ? nil : (did[(did.size - 1) / 2] + did[did.size / 2]).fdiv(2)), about
        end
      end
    end
  end

  def crowd(counts, attributes = {})
    people = counts.each_with_index.to_h do |count, index|
      plan = attributes[index % 2]
      events = Array.new(count) { |number| { type: "ride_ended", at: Time.utc(2026, 3, 2 + number, 9) } }
      [index + 1, { events: events, attributes: [{ name: "plan", at: Time.utc(2026), value: plan }] }]
    end
    Population.new(people, event_types: { "ride_ended" => {} }, attributes: { "plan" => "text" })
  end

  def finding(population, question)
    with_ledger(population) do |ledger|
      return analysis("frequency", { "series" => [{ "event" => "ride_ended" }], "from" => "2026-03-01", **question }, ledger, as_of: Date.new(2026, 3, 31)).over.finding
    end
  end

  it "says what most people did, and where two groups differ, unless that may be chance or there are few" do
    expect(finding(crowd(([1] * 60) + ([3] * 40)), {})).to start_with("Median 1 time, mean 1.8 (100 people who ended a ride). 60% did it once, 0% 21 or more times.")
    apart = crowd(Array.new(200) { |index| index.even? ? 1 : 4 }, %w[day monthly])
    expect(finding(apart, { "by" => { "attribute" => "plan" } })).to match(/Largest difference between “day” and “monthly”: (once|4 times), (100% vs 0%|0% vs 100%)/)
    alike = crowd(Array.new(200) { |index| (index / 2).even? ? 1 : 4 }, %w[day monthly])
    expect(finding(alike, { "by" => { "attribute" => "plan" } })).to eq("No significant difference between “day” and “monthly”.")
    expect(finding(crowd([1, 4] * 20, %w[day monthly]), { "by" => { "attribute" => "plan" } })).to eq("Not enough data: fewer than 50 people in each group.")
    expect(finding(crowd([1] * 60, ["day"] * 2), { "by" => { "attribute" => "plan" } })).to start_with("Of 60 people who ended a ride (“day”), 100% did so once")
    expect(finding(Population.new({ 1 => { events: [], attributes: [] } }, event_types: { "ride_ended" => {} }), {})).to eq("Nobody did this so often in these days.")
  end

  it "counts those below the first edge too, so that shares, mean and median are of the same people" do
    with_ledger(crowd(([1] * 30) + ([3] * 40) + ([6] * 30) + ([0] * 100))) do |ledger|
      question = { "series" => [{ "event" => "ride_ended" }], "from" => "2026-03-01", "edges" => [2, 5] }
      done, all = [false, true].map { |base| analysis("frequency", { **question, "of_all" => base }, ledger, as_of: Date.new(2026, 3, 31)).over }
      expect(done.picture[:buckets].map { |bucket| bucket[:said] }).to eq(["1", "2–4", "5 or more"])
      expect(done.picture[:rows].first.values_at(:people, :counts, :mean, :median)).to eq([100, [30, 40, 30], 3.3, 3.0])
      expect(done.finding).to start_with("Median 3 times, mean 3.3 (100 people who ended a ride). 40% did it 2–4 times")
      expect(all.picture[:rows].first.values_at(:people, :shares)).to eq([200, [0.5, 0.15, 0.2, 0.15]])
    end
  end

  # Two groups drawn from the same crowd, many times over: a difference is claimed of few.
  it "claims a difference between groups that do not differ at most one time in twenty" do
    random = Random.new(11)
    frequency = Struct.new(:buckets, :unit).new(described_class::EDGES.each_cons(2).map { |from, after| from..(after - 1) } << (21..), "events")
    claimed = Array.new(400) do
      lines = Array.new(2) do |index|
        counts = Array.new(8, 0)
        200.times { counts[[(-Math.log(random.rand) * 2.5).floor, 7].min] += 1 }
        described_class::Line.new(name: index.to_s, people: 200, counts: counts, shares: counts.map { |count| count / 200.0 }, mean: 1.0)
      end
      described_class::Finding.new(frequency, lines).to_s.include?("differ most")
    end
    expect(claimed.count(true)).to be <= 28 # of 400, 20 and two standard deviations
  end

  it "refuses edges out of order, days to come and too many bars" do
    { { "edges" => [2, 2] } => /boundaries must be in ascending order/, { "from" => "2026-05-01" } => /after the as-of date/,
      { "by" => { "attribute" => "plan" }, "top" => 10, "series" => [{ "event" => "ride_ended" }] * 2 } => /too many groups of bars \(24\); choose fewer events or values/ }.each do |question, message|
      expect { finding(crowd([1]), question) }.to raise_error(Estrel::Analyses::Invalid, message)
    end
  end
end
