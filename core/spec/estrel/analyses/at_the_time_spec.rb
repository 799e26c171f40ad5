# frozen_string_literal: true

# Hand-worked: by which value of an attribute people are told apart where it changes while one looks.
RSpec.describe Estrel::Analyses::AtTheTime do
  def at(day, hour = 12) = Time.utc(2026, 3, day, hour)

  # 1 begins without a tier, gets one in the week of her start, and another later; 2 has had one from before; 3 gets
  # hers at the very instant of her start.
  let(:population) do
    person = ->(events, tiers) { { events: events.map { |type, time| { type: type, at: time } }, attributes: tiers.map { |value, time| { name: "tier", at: time, value: value } } } }
    Population.new({ 1 => person.call([["ride", at(3)], ["ride", at(5)], ["pay", at(6)], ["ride", at(10)]], [["gold", at(4)], ["blue", at(20)]]),
                     2 => person.call([["ride", at(3)], ["pay", at(11)]], [["blue", Time.utc(2026, 2, 1)]]),
                     3 => person.call([["ride", at(9)], ["ride", at(10)]], [["gold", at(9)]]) },
                   event_types: { "ride" => {}, "pay" => {} }, attributes: { "tier" => "text" })
  end

  def asked(name, question)
    rules = Estrel::Lifecycle::RuleSet.new(activity: %w[ride], new_for: 3, active_within: 3, churned_after: 9)
    with_ledger(population) { |ledger| return analysis(name, { "from" => "2026-03-02", "by" => { "attribute" => "tier" }, **question }, ledger, as_of: Date.new(2026, 3, 31), rules: rules).over }
  end

  def rows(answer) = answer.picture[:rows].to_h { |row| [row[:name], yield(row)] }

  it "is that of the start in cohorts: of the first ever, or of each value with which somebody began in the step" do
    question = { "start" => { "event" => "ride" }, "return" => { "event" => "pay" }, "step" => "week" }
    first = asked("retention", question)
    expect(rows(first) { |row| row[:sizes].first(2) }).to eq("gold" => [0, 1], "blue" => [1, 0], "not set" => [1, 0])
    expect(rows(asked("retention", { **question, "starts" => "each" })) { |row| row[:sizes].first(2) }).to eq("gold" => [1, 2], "blue" => [1, 0], "not set" => [1, 0])
    expect(rows(asked("cohort-value", { **question.except("return"), "value" => { "event" => "pay", "measure" => "times" } })) { |row| row[:totals].first.first(2) }).to eq("gold" => [0, 0], "blue" => [0, 1], "not set" => [1, 0])
    expect(first.caveats).to include("Split by “tier” at the start event.")
    expect(first.tables.last.rows.first.people).to eq("first" => { "event" => "ride", "where" => [], "window" => { "from" => "2026-03-02", "to" => "2026-03-08" }, "then" => [{ "attribute" => "tier", "compare" => "is_not_set" }] })
  end

  it "is that of the first step of a funnel, in each with which somebody began, and of the beginning of a visit" do
    funnel = asked("funnel", { "steps" => [{ "event" => "ride" }, { "event" => "pay" }] })
    expect(rows(funnel) { |row| row[:steps].map { |step| step[:people] } }).to eq("gold" => [2, 1], "blue" => [1, 1], "not set" => [1, 1])
    expect(funnel.caveats).to include("People with several values at the first step count in each.")
    expect(rows(asked("visits", { "step" => "week" })) { |row| row[:figures][:visits][:total] }).to eq("gold" => 5, "blue" => 2, "not set" => 1)
  end

  it "counts how often each did it while they had it" do
    often = asked("frequency", { "series" => [{ "event" => "ride" }], "edges" => [1, 2] })
    expect(rows(often) { |row| row[:counts] }).to eq("gold" => [0, 2], "blue" => [1, 0], "not set" => [1, 0])
    expect(often.caveats).to eq(["Split by “tier” at the time of the event.", "People with several values in this period count under each, with the events of that time."])
  end

  it "compares with those who were active with that value" do
    answer = asked("trends", { "series" => [{ "event" => "pay" }], "measure" => "share_of_active", "step" => "month" })
    expect(rows(answer) { |row| row[:values] }).to eq("gold" => [0.5], "blue" => [1.0])
  end

  it "is that of the as-of date where the record begins later, or where that is asked for, and says so" do
    late = asked("funnel", { "from" => "2026-01-31", "steps" => [{ "event" => "ride" }, { "event" => "pay" }] })
    expect(rows(late) { |row| row[:steps].map { |step| step[:people] } }).to eq("blue" => [2, 2], "gold" => [1, 0])
    expect(late.caveats).to include("History of “tier” starts on 1 Feb 2026, after the start of this period, so its value on 31 Mar 2026 is used.")
    chosen = asked("funnel", { "steps" => [{ "event" => "ride" }, { "event" => "pay" }], "by" => { "attribute" => "tier", "as_of" => true } })
    expect([chosen.picture[:rows].size, chosen.caveats.last]).to eq([2, "Split by values as of 31 Mar 2026."])
    often = asked("frequency", { "series" => [{ "event" => "ride" }], "of_all" => true })
    expect(often.caveats).to eq([chosen.caveats.last])
    [{ "state" => true, "as_of" => true }, { "as_of" => true }, { "state" => true, "attribute" => "tier" }].each do |by|
      expect { asked("funnel", { "steps" => [{ "event" => "ride" }, { "event" => "pay" }], "by" => by }) }.to raise_error(Estrel::Audience::Invalid, /choose one split; only attributes can be as of a date/)
    end
  end
end
