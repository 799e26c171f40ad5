# frozen_string_literal: true

RSpec.describe Estrel::Survey do
  let(:day) { ->(number, hours = 12) { Time.utc(2026, 5, number) + (hours * 3600) } }

  it "lists what has been seen of every type, property and attribute up to the date" do
    rides = [[1, 3.0, "A"], [10, 3.0, nil], [10, 4.5, "B"], [31, 9.0, "A"]]
    people = { 1 => { events: rides.map { |at, km, dock| { type: "ride", at: day.call(at), km: km, dock: dock } },
                      attributes: [{ name: "tags", at: day.call(1), value: %w[a b] }, { name: "born", at: day.call(2), value: Date.new(1990, 1, 2) },
                                   { name: "born", at: day.call(20), value: Date.new(1991, 1, 2) }] },
               2 => { events: [{ type: "fault", at: day.call(9) }], attributes: [] } }
    population = Population.new(people, event_types: { "ride" => { "km" => "number", "dock" => "text" }, "fault" => {} },
                                        attributes: { "tags" => "list", "born" => "date" })
    with_ledger(population) do |generation|
      survey = described_class.new(generation, Date.new(2026, 5, 15))
      expect(survey.event_types["ride"]).to include(count: 3, first_day: Date.new(2026, 5, 1), last_day: Date.new(2026, 5, 10), fresh: false)
      expect(survey.event_types["ride"][:volume].each_with_index.reject { |count, _| count.zero? }).to eq([[1, 15], [2, 24]])
      expect(survey.event_types["fault"]).to include(fresh: true)
      expect(survey.people).to eq("ride" => 1, "fault" => 1)
      sight = { first_day: Date.new(2026, 5, 1), last_day: Date.new(2026, 5, 10), volume: survey.event_types["ride"][:volume] }
      expect(survey.properties("ride")).to match(
        "km" => { **sight, share: 1.0, count: 3, top: [{ value: "3", count: 2 }, { value: "4.5", count: 1 }], example: "4.5" },
        "dock" => { **sight, share: be_within(1e-9).of(2 / 3.0), count: 2, volume: satisfy { |counts| counts.sum == 2 }, top: [{ value: "A", count: 1 }, { value: "B", count: 1 }], example: "B" }
      )
      expect(survey.attributes["born"]).to include(share: 0.5, count: 1, example: "1990-01-02", first_day: Date.new(2026, 5, 2))
      expect(survey.attributes["tags"][:top].map { |row| row[:value] }).to eq(%w[a b])
    end
  end

  it "sorts receipts by how late they came, and finds the source that has gone silent" do
    delays = [0, 60, 61, 3_600, 3_601, 86_400, 86_401, 604_800, 604_801]
    events = delays.map { |seconds| { type: "ride", at: day.call(1), received: day.call(1) + seconds } } +
             (1..20).map { |number| { type: "ride", at: day.call(number), source: 2 } }
    population = Population.new({ 1 => { events: events, attributes: [] } }, event_types: { "ride" => {} })
    with_ledger(population) do |generation|
      receiving = Estrel::Receiving.new(generation)
      expect(receiving.lateness(Date.new(2026, 5, 9), 9)).to eq([{ source: "app", events: 9, within: [2, 2, 2, 2, 1] },
                                                                 { source: "kiosk", events: 9, within: [9, 0, 0, 0, 0] }])
      expect(receiving.finding(Date.new(2026, 5, 9), 9, population.micros(day.call(9))))
        .to eq("61% of 18 events arrived within a minute (9 days to 9 May 2026). Slowest source: app, 33% of events more than a day late.")
      silent = ->(at) { receiving.pauses(population.micros(at)).to_h { |row| [row[:source], row[:silent]] } }
      expect(silent.call(day.call(23))).to eq("app" => false, "kiosk" => false)
      expect(silent.call(day.call(23, 13))).to eq("app" => false, "kiosk" => true)
    end
  end
end
