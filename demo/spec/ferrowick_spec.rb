# frozen_string_literal: true

require_relative "../lib/ferrowick"

# What demo/README.md says was planted, as the analyses see it in the imported demo.
RSpec.describe Ferrowick do
  let(:generation) { Estrel::Ledger.new(File.expand_path("../../var/browser-demo/ledger", __dir__)).current }

  def members(json)
    definition = Estrel::Audience::Definition.parse(json, catalogue: generation.catalogue)
    Estrel::Audience::Evaluator.new(generation, as_of: described_class::LAST_DAY, rule_set: rules).members(definition)
  end

  def did(event, window: { "ever" => true }, count: { "at_least" => 1 }, where: [])
    { "did" => { "event" => event, "where" => where, "count" => count, "window" => window } }
  end

  def between(from, to) = { "from" => from.iso8601, "to" => to.iso8601 }

  def filter(property, value) = { "property" => property, "compare" => "is", "value" => value }

  it "has the size it promises" do
    expect(generation.base_size).to eq(12_000)
    expect(generation.facts["event_count"]).to be_between(600_000, 660_000)
    expect([generation.oldest_day, generation.newest_day]).to eq([described_class::FIRST_DAY, described_class::LAST_DAY])
    expect(generation.profiles["profile_type"].to_a.tally).to eq("customer" => 10_000, "contact" => 1_200, "visitor" => 800)
  end

  it "rides far less in winter than in summer" do
    rides = ->(from, to) { generation.events("ride_ended")["day"].to_a.count { |day| day.between?(*[from, to].map { |date| Estrel::Calendar.number(date) }) } }
    expect(rides.call(Date.new(2026, 1, 1), Date.new(2026, 1, 31))).to be < 0.3 * rides.call(Date.new(2026, 7, 1), Date.new(2026, 7, 31))
  end

  it "ends no ride at the broken quarter while it is broken, and hears of its faults" do
    days = described_class::BROKEN_DAYS
    at_quarter = [filter("quarter", described_class::BROKEN_QUARTER)]
    expect(members(did("ride_ended", window: between(days.first, days.last), where: at_quarter)).len).to eq(0)
    expect(members(did("ride_ended", window: between(days.first - 21, days.first - 1), where: at_quarter)).len).to be > 1000
    expect(members(did("fault_reported", window: between(days.first, days.last), where: at_quarter)).len).to be > 500
  end

  it "loses its fare leavers on the day of the fare change" do
    change = described_class::FARE_CHANGE
    leavers = members({ "all" => [did("ride_ended", window: between(change - 60, change - 1)),
                                  did("ride_ended", window: between(change, described_class::LAST_DAY), count: { "exactly" => 0 })] })
    numbers = generation.profiles.filter(Polars.col("profile_id").is_in(leavers))["identifier:customer"].to_a.compact.map { |id| id[1..].to_i }
    planted = (9_201..10_000).to_a
    expect((numbers & planted).size).to be > 700
  end

  it "brings the seasonal riders back in spring, the reached ones with the campaign" do
    spring = described_class::SPRING_CAMPAIGN
    reached = did("message_received", where: [filter("campaign", "spring_hello")])
    opened = did("message_opened", where: [filter("campaign", "spring_hello")])
    week = did("ride_ended", window: between(spring, spring + 7))
    winter = did("ride_ended", window: between(Date.new(2025, 11, 1), spring - 1), count: { "exactly" => 0 })
    expect(members({ "all" => [reached, winter] }).len).to eq(members(reached).len)
    expect(members({ "all" => [opened, week] }).len).to eq(members(opened).len)
  end

  def asked(analysis, question)
    workspace = Estrel::Analyses::Workspace.new(ledger: generation, as_of: described_class::LAST_DAY, today: described_class::LAST_DAY + 1)
    Estrel::Analyses.named(analysis).ask(question, workspace).over.picture
  end

  def rules = Estrel::Lifecycle::RuleSet.new(activity: %w[ride_ended pass_bought], new_for: 30, active_within: 30, churned_after: 90)

  it "has a week whose fall has one cause, and others without any" do
    rides = { "of" => { "event" => "ride_ended" }, "measure" => "times" }
    fall = asked("change", { **rides, "at" => described_class::CUT_OFF_DAYS.first.iso8601 })
    expect(fall[:reasons].first).to include(said: "home quarter “#{described_class::CUT_OFF_QUARTER}”", clear: true)
    expect(fall[:reasons].first[:high]).to be < -100
    quiet = [21, 14].map { |days| asked("change", { **rides, "at" => (described_class::CUT_OFF_DAYS.first - days).iso8601 }) }
    expect(quiet.flat_map { |week| week[:reasons].select { |reason| reason[:clear] && reason[:split] == "home quarter" } }).to be_empty
  end

  it "has a step where those of one quarter stop" do
    funnel = asked("funnel", { "steps" => [{ "event" => "trip_planned" }, { "event" => "bike_unlocked" }], "same_visit" => true, "counted" => "visits",
                               "from" => "2026-09-01", "by" => { "attribute" => "home_quarter" }, "top" => 6 })
    shares = funnel[:rows].to_h { |row| [row[:group][:value], row[:steps].last[:share]] }
    short, others = shares.slice(*described_class::QUARTERS).partition { |quarter, _| quarter == described_class::SHORT_QUARTER }
    expect(short.first.last).to be < 0.75 * others.map(&:last).min
  end

  it "has a start after which people stay, and a season that brings in more" do
    month = lambda do |pass|
      start = { "event" => "pass_bought", "where" => [filter("pass", pass)] }
      asked("retention", { "start" => start, "return" => { "event" => "ride_ended" }, "step" => "month", "from" => "2025-09-01" })[:rows].first[:curve][2][:share]
    end
    expect(month.call("monthly pass")).to be > 0.7
    expect(month.call("day pass")).to be < 0.05
    value = asked("cohort-value", { "start" => { "event" => "ride_ended" }, "value" => { "event" => "ride_ended", "property" => "cost", "measure" => "sum" }, "step" => "month", "from" => "2026-05-01" })
    row = value[:rows].first
    may, june = row[:totals].zip(row[:sizes]).first(2).map { |totals, size| totals.first / size }
    expect(june).to be > 1.2 * may
  end

  it "has people whose return is more likely than days inactive tell" do
    workspace = Estrel::Analyses::Workspace.new(ledger: generation, as_of: described_class::LAST_DAY, today: described_class::LAST_DAY + 1, rules: rules)
    found = Estrel::Analyses.named("chance").ask({}, workspace).over.picture
    expect(found[:discrimination][:difference][:low]).to be_positive
    expect(found[:tenths].last[:lift]).to be > 3
  end

  it "has new riders who plan nearly every trip, and experienced ones who just ride" do
    series = %w[trip_planned bike_unlocked].map { |name| { "event" => name } }
    planned, unlocked = asked("experience", { "series" => series, "edges" => [1, 2, 4, 11, 31] })[:rows].map { |row| row[:times] }
    expect(planned[1].fdiv(unlocked[1])).to be > 0.75
    expect(planned.last.fdiv(unlocked.last)).to be < 0.5
  end

  it "has longer visits at weekends" do
    visits = Estrel::Visits.listed(generation.spine).filter(Polars.col("events") > 1)
    weekend = ((Polars.col("day") + 3) % 7) >= 5
    means = visits.with_columns([weekend.alias("weekend")]).group_by("weekend").agg([Polars.col("length").mean]).rows.to_h
    expect(means[true]).to be > 1.3 * means[false]
  end

  it "has people who plan one trip after the other and then stop" do
    picture = asked("next-events", { "event" => { "event" => "trip_planned" }, "from" => described_class::FIRST_DAY.iso8601, "depth" => 2 })
    again, ridden = %w[trip_planned bike_unlocked].map { |name| picture[:branches].find { |branch| branch[:event] == name } }
    expect(again[:ended].fdiv(again[:times])).to be > 1.5 * ridden[:ended].fdiv(ridden[:times])
  end

  it "has kiosks that delivered late in February" do
    days = described_class::KIOSKS_OFFLINE.minmax.map { |date| Estrel::Calendar.number(date) }
    passes = generation.events("pass_bought").filter(Polars.col("day").is_between(*days))
    late = passes.filter((Polars.col("received_at") - Polars.col("occurred_at")) > (86_400 * 1_000_000))
    expect(late.height).to be > 50
  end
end
