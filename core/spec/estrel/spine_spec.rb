# frozen_string_literal: true

# The spine against plain Ruby: many people, few instants, so that ties within and across types are common.
RSpec.describe Estrel::Ledger::Spine do
  # However few rows there are, only people of whom something has changed are put in order anew.
  before { stub_const("Estrel::Ledger::Splice::ROWS_EACH", 0) }

  let(:gap) { 1_800_000_000 }
  let(:calendar) { Estrel::Calendar.new("America/New_York") }
  let(:types) do
    [["ride", false], ["plan", false], ["letter", true]].each_with_index.map do |(name, system), index|
      Estrel::Catalogue::EventType.new(id: index + 4, name: name, properties: {}, count: 0, not_activity: system)
    end
  end

  # Rows are [type, profile, instant, event id].
  def frames(rows)
    types.to_h do |type|
      own = rows.select { |of, *| of == type.name }.map { |_, *row| row }
      columns = { "profile_id" => own.map(&:first), "occurred_at" => own.map { |row| row[1] }, "received_at" => own.map { |row| row[1] + 90_000_000_000 },
                  "event_id" => own.map(&:last) }
      frame = Polars::DataFrame.new(columns, schema_overrides: columns.transform_values { Polars::Int64 })
      [type, frame.with_columns([calendar.day_numbers(Polars.col("occurred_at")).alias("day")]).sort(Estrel::Ledger::Layout::EVENT_ORDER)]
    end
  end

  def random_rows(random, count, first_id = 0)
    minutes = [0, 1, 29, 30, 31, 61, 700, 1440]
    Array.new(count) do |index|
      at = 1_761_900_000_000_000 + ((random.rand(4) * 86_400) + (minutes.sample(random: random) * 60)).*(1_000_000)
      [types.sample(random: random).name, random.rand(1..40) * 3, at, first_id + index]
    end
  end

  def visit_starts(rows)
    rows.reject { |type, *| type == "letter" }.group_by { |row| row[1] }.flat_map do |profile, own|
      own.map { |row| row[2] }.uniq.sort.slice_when { |before, after| after - before > gap }.flat_map { |visit| visit.map { |at| [[profile, at], visit.first] } }
    end.to_h
  end

  def expected(rows)
    ids = types.to_h { |type| [type.name, type.id] }
    starts = visit_starts(rows)
    rows.sort_by { |type, profile, at, id| [profile, at, ids[type], id] }.map do |type, profile, at, _|
      day, received = [at, at + 90_000_000_000].map { |instant| Estrel::Calendar.number(calendar.day_of(instant)) }
      { "profile_id" => profile, "day" => day, "type" => ids[type], "occurred_at" => at, "received_day" => received,
        "visit_start" => (starts.fetch([profile, at]) unless type == "letter") }
    end
  end

  Checks.seeds(6).each do |seed|
    # Also with the shortest and the longest visit gap there can be.
    it "puts all events in order, tells visits apart, and stays so after anything has happened to a few people (seed #{seed})" do
      allow(self).to receive(:gap).and_return([1, 30, 1440][seed % 3] * 60_000_000)
      random = Random.new(seed)
      rows = random_rows(random, 150)
      spine = described_class.of(frames(rows), calendar, gap)
      expect(spine.rows(named: true)).to eq(expected(rows))
      4.times do |round|
        fresh = random_rows(random, random.rand(6), 1000 * (round + 1))
        from, into, gone = [3, 60, 120].map { |id| id + (3 * random.rand(3)) }
        rows = (rows + fresh).reject { |row| row[1] == gone }.map { |type, profile, *rest| [type, profile == from ? into : profile, *rest] }
        spine = described_class.renewed(spine, frames(rows), [from, into, gone, *fresh.map { |row| row[1] }], calendar, gap)
        expect(spine.rows(named: true)).to eq(expected(rows))
      end
    end
  end

  it "is there without any events, and knows the instant before each, ties left out" do
    expect(described_class.of(frames([]), calendar, gap).height).to eq(0)
    rows = [["ride", 3, 100, 1], ["plan", 3, 100, 2], ["letter", 3, 100, 3], ["ride", 3, 105, 4], ["ride", 6, 90, 5], ["plan", 6, 90, 6]]
    gone = described_class.renewed(described_class.of(frames(rows), calendar, gap), frames([]), [3, 6], calendar, gap)
    expect(gone.height).to eq(0)
    never = described_class::NEVER
    expect(described_class.previous(described_class.of(frames(rows), calendar, gap)).to_a).to eq([never, never, never, 100, never, never])
  end
end
