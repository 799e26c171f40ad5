# frozen_string_literal: true

# The ranking against plain Ruby, one person and one event at a time.
RSpec.describe Estrel::Analyses::Ranking do
  seeds = Checks.seeds(5)

  seeds.each do |seed|
    it "counts people, times and active people as plain Ruby does, also of audiences and of the days before (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        from = one.as_of - random.rand(80)
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        known = population.people.values.select { |person| reference.exists?(person, one.as_of) }
        done = ->(people, type, days) { people.map { |person| person[:events].count { |row| row[:type] == type && days.cover?(reference.day(row[:at])) } }.reject(&:zero?) }
        active = ->(people) { people.count { |person| reference.send(:activity_days, person, one.as_of).any? { |day| day >= from } } }
        share = ->(part, all) { all.zero? ? nil : part.fdiv(all) }
        audiences = [1, 2].map { |id| known.select { |person| reference.fits?({ "audience" => { "id" => id } }, person, one.as_of) } }

        picture = described_class.ask({ "from" => from.iso8601, "audiences" => [1, 2] }, one.workspace(parts: 3)).over.picture
        expect(picture[:active]).to eq(active.call(known))
        expect(picture[:rows].map { |row| row[:event] }).to match_array(RandomPopulation::EVENT_TYPES.keys)
        expect(picture[:rows].map { |row| row[:people] }).to eq(picture[:rows].map { |row| row[:people] }.sort.reverse)
        picture[:rows].each do |row|
          now = done.call(known, row[:event], from..one.as_of)
          before = done.call(known, row[:event], (from - (one.as_of - from + 1))..(from - 1)).size
          expect(row.values_at(:people, :times, :share, :per_person)).to eq([now.size, now.sum, share.call(now.size, picture[:active]), share.call(now.sum, now.size)])
          expect(row.values_at(:before, :change)).to eq([before, share.call(now.size - before, before)])
          expect(row[:trend]).to eq(picture[:periods].map { |period| done.call(known, row[:event], period[:from]..period[:to]).size })
          expect(row[:audiences]).to eq(audiences.map { |people| done.call(people, row[:event], from..one.as_of).size.then { |count| { people: count, share: share.call(count, active.call(people)) } } })
        end
      end
    end
  end

  it "looks at 30 days unless others are asked for, in buckets that hold all of them, and refuses days to come" do
    with_ledger(Population.new({ 1 => { events: [{ type: "rode", at: Time.utc(2026, 3, 2) }], attributes: [] } }, event_types: { "rode" => {}, "paid" => {} })) do |ledger|
      ask = ->(question) { analysis("ranking", question, ledger, as_of: Date.new(2026, 3, 31), today: Date.new(2026, 4, 1)).over }
      found = ask.call({})
      expect(found.picture.values_at(:from, :active)).to eq([Date.new(2026, 3, 2), nil])
      expect(found.finding).to eq("Top event: “rode”, 1 person, 1 time.")
      expect(found.picture[:rows].map { |row| [row[:event], row[:change], row[:trend].sum] }).to eq([["rode", nil, 1], ["paid", nil, 0]])
      periods = ask.call({ "from" => "2025-01-01" }).picture[:periods]
      expect([periods.size, periods.first[:from], periods.last[:to]]).to eq([29, Date.new(2025, 1, 1), Date.new(2026, 3, 31)])
      expect { ask.call({ "from" => "2026-04-01" }) }.to raise_error(Estrel::Analyses::Invalid, /the start date is after the as-of date/)
    end
  end
end
