# frozen_string_literal: true

# Visits against plain Ruby, one person at a time.
RSpec.describe Estrel::Analyses::Visits do
  seeds = Checks.seeds(9)
  let(:told_apart) do
    [{}, { "audiences" => [1, 2] }, { "by" => { "attribute" => "plan" }, "top" => 2 }, { "newness" => true }, { "by_doing" => { "event" => "pass_bought" } }]
  end

  def quantile(values, share)
    return if values.empty?

    place = share * (values.size - 1)
    low, high = values.sort.values_at(place.floor, place.ceil)
    low + ((high - low) * (place - place.floor))
  end

  def mean(values) = values.empty? ? nil : values.sum.fdiv(values.size)

  # By person, those in some days.
  def figures(paid, reference)
    visits = paid.values.flatten
    days = paid.values.sum { |own| own.map { |visit| reference.day(visit[:at]) }.uniq.size }
    seconds = visits.map { |visit| visit[:length] }
    { visits: visits.size, people: paid.size, per_person: mean(paid.values.map(&:size)), mean: mean(seconds), median: quantile(seconds.map(&:floor), 0.5), p90: quantile(seconds.map(&:floor), 0.9),
      single: mean(visits.map { |visit| visit[:events] == 1 ? 1 : 0 }), days: paid.empty? ? nil : days.fdiv(paid.size), per_day: days.zero? ? nil : seconds.sum.fdiv(days) }
  end

  def close(figures) = figures.transform_values { |value| value.is_a?(Float) ? value.round(6) : value }

  def counted(values, ranges) = ranges.map { |range| values.count { |value| range.cover?(value) } }

  seeds.each_with_index do |seed, place|
    it "counts the visits that plain Ruby does, how long they are and when, in each group (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        to = one.as_of - random.rand(5)
        edges = [[60, 1_800, 1_801], [1]].sample(random: random)
        question = { "from" => (to - random.rand(40)).iso8601, "to" => to.iso8601, "step" => %w[day week].sample(random: random), "edges" => edges, **told_apart[place % told_apart.size] }
        analysis = described_class.ask(question, one.workspace(parts: 3))
        answer = analysis.over
        picture = answer.picture
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        known = population.people.values.select { |person| reference.exists?(person, one.as_of) }.to_h { |person| [person, reference.send(:visits, person, one.as_of)] }

        picture[:rows].each do |row|
          newness = { "first visits" => [1], "later visits" => (2..) }[row[:name]]
          theirs = known.select { |person, _| reference.fits?(row[:group][:people_in], person, one.as_of) }
                        .to_h { |person, visits| [person, visits.select { |visit| (newness.nil? || newness.include?(visit[:number])) && reference.send(:all_hold?, one.then_so(answer, row), visit[:began], person) }] }
          paid = lambda do |from, last|
            theirs.transform_values { |visits| visits.select { |visit| reference.day(visit[:at]).between?(from, last) } }.reject { |_, visits| visits.empty? }
          end
          about = "#{question} #{row[:name]}"
          told = ->(figures, at) { close(figures.transform_values { |figure| at ? figure[:values][at] : figure[:total] }) }
          picture[:periods].each_with_index do |period, at|
            expect(told.call(row[:figures], at)).to eq(close(figures(paid.call(period[:from], period[:to]), reference))), "#{about} #{period}"
          end
          whole = paid.call(picture[:from], picture[:to])
          expect(told.call(row[:figures], nil)).to eq(close(figures(whole, reference))), about
          visits = whole.values.flatten
          longer = visits.reject { |visit| visit[:events] == 1 }
          expect(row[:lengths]).to eq([visits.size - longer.size, *counted(longer.map { |visit| visit[:length] }, analysis.lengths)]), about
          expect(row[:often]).to eq(counted(whole.values.map(&:size), analysis.often)), about
          hours = visits.map { |visit| ((reference.day(visit[:at]).cwday - 1) * 24) + reference.send(:local, visit[:at]).hour }.tally
          expect(row[:clock]).to eq(Array.new(168) { |hour| hours.fetch(hour, 0) }), about
        end
        expect_cohorts(picture, known, reference)
      end
    end
  end

  # Seconds that people spent on average on each day since their first, of those for whom it has come.
  def spent(people, last_day, reference)
    Array.new(30) do |age|
      come = people.select { |_, day, _| day + age <= last_day }
      mean(come.map { |_, day, visits| visits.sum { |visit| reference.day(visit[:at]) == day + age ? visit[:length] : 0 } })&.round(6)
    end
  end

  def expect_cohorts(picture, known, reference)
    people = known.map { |person, visits| [person, reference.send(:first_seen, person), visits] }
    expected = picture[:periods].filter_map do |period|
      theirs = people.select { |_, day, _| day.between?(period[:from], period[:to]) }
      [period[:from], theirs.size, spent(theirs, picture[:to], reference)] if theirs.any?
    end
    expect(picture[:cohorts].map { |cohort| [cohort[:from], cohort[:people], cohort[:seconds].map { |value| value&.round(6) }] }).to eq(expected)
  end

  # Visits of one person at these minutes, in Lisbon, whose clocks go forward at 1:00 on 29 March 2026.
  def picture(times, **question)
    events = times.map { |time| { type: "ride_ended", at: Time.parse("#{time} UTC") } }
    population = Population.new({ 1 => { events: events, attributes: [] } }, event_types: { "ride_ended" => {} }, time_zone: "Europe/Lisbon")
    with_ledger(population) do |ledger|
      return analysis("visits", { "from" => "2026-03-27", "step" => "day", **question.transform_keys(&:to_s) }, ledger, as_of: Date.new(2026, 3, 30)).over.picture
    end
  end

  it "ends a visit only after a longer gap, has it on the day it begins, and takes the hour of the clock there" do
    found = picture(["2026-03-28 23:40", "2026-03-29 00:10", "2026-03-29 00:40:01", "2026-03-29 01:10", "2026-03-29 12:00"])
    figures = found[:rows].first[:figures]
    expect(figures[:visits][:values]).to eq([0, 1, 2, 0])
    expect(figures[:median][:values]).to eq([nil, 1_800, (1_799 + 0) / 2.0, nil])
    expect(figures[:single][:total]).to eq(1 / 3.0)
    expect(found[:rows].first[:clock].each_with_index.select { |count, _| count.positive? }.map(&:last)).to eq([(5 * 24) + 23, 6 * 24, (6 * 24) + 13])
  end

  it "counts a visit before its range ends whole, and one that began before it not at all" do
    times = ["2026-03-27 23:50", "2026-03-28 00:05", "2026-03-28 23:50", "2026-03-29 00:10"]
    expect(picture(times, from: "2026-03-28", to: "2026-03-28")[:rows].first[:figures].slice(:visits, :mean).transform_values { |figure| figure[:total] }).to eq({ visits: 1, mean: 1_200.0 })
  end

  it "gives lines of their own to the values of those who brought in most, of people or of what a visit began with" do
    people = [["day", "North", 1, 5], ["monthly", "South", 3, 1], ["monthly", "South", 3, 1]].each_with_index.to_h do |(plan, gate, visits, price), index|
      events = (1..visits).flat_map { |day| [{ type: "entered", at: Time.utc(2026, 3, day, 9), gate: gate }, { type: "pass_bought", at: Time.utc(2026, 3, day, 9, 5), price: price / visits.to_f }] }
      [index + 1, { events: events, attributes: [{ name: "plan", at: Time.utc(2026), value: plan }] }]
    end
    population = Population.new(people, event_types: { "entered" => { "gate" => "text" }, "pass_bought" => { "price" => "number" } }, attributes: { "plan" => "text" })
    with_ledger(population) do |ledger|
      names = ->(question) { analysis("visits", { "from" => "2026-03-01", "top" => 1, **question }, ledger, as_of: Date.new(2026, 3, 31)).over.picture[:rows].map { |row| [row[:name], row[:figures][:visits][:total]] } }
      spent = { "order" => "sum", "order_by" => { "event" => "pass_bought", "property" => "price" } }
      expect(names.call("by" => { "attribute" => "plan" }, **spent)).to eq([["day", 1], ["monthly", 6]])
      expect(names.call("by" => { "attribute" => "plan" })).to eq([["monthly", 6], ["day", 1]])
      expect(names.call("by_first" => "gate", **spent)).to eq([["North", 1], ["South", 6]])
      expect { names.call("by_first" => "gate", "order" => "sum") }.to raise_error(Estrel::Analyses::Invalid, /event/)
      expect { names.call("by_first" => "gate", "order" => "sum", "order_by" => { "event" => "entered", "property" => "gate" }) }.to raise_error(Estrel::Analyses::Invalid, /is a number/)
    end
  end

  it "knows a value whose visits have no length also after somebody else's value changed" do
    people = (1..9).to_h do |id|
      plan = [{ name: "city", at: Time.utc(2026), value: "North" }, { name: "plan", at: Time.utc(2026), value: "day" }]
      [id, { events: [{ type: "ride_ended", at: Time.utc(2026, 3, 24, 9, id) }], attributes: id == 1 ? [] : plan }]
    end
    population = Population.new(people, event_types: { "ride_ended" => {} }, attributes: { "plan" => "text", "city" => "text" })
    with_ledger(population, tail: 8) do |ledger|
      question = { "from" => "2026-03-01", "by" => { "attribute" => "plan" }, "order" => "time" }
      rows = analysis("visits", question, ledger, as_of: Date.new(2026, 3, 31)).over.picture[:rows]
      expect(rows.to_h { |row| [row[:name], row[:figures][:people][:total]] }).to eq({ "day" => 8, "not set" => 1 })
    end
  end

  it "has no longest visits where all groups are alike, and no length where most visits are of one event" do
    people = (1..120).to_h { |id| [id, { events: [{ type: "ride_ended", at: Time.utc(2026, 3, 24, 9) }], attributes: [{ name: "plan", at: Time.utc(2026), value: id.even? ? "day" : "monthly" }] }] }
    with_ledger(Population.new(people, event_types: { "ride_ended" => {} }, attributes: { "plan" => "text" })) do |ledger|
      finding = ->(question) { analysis("visits", { "from" => "2026-03-01", **question }, ledger, as_of: Date.new(2026, 3, 31)).over.finding }
      expect(finding.call({})).to include("at least half without length, 100% single-event")
      expect(finding.call("by" => { "attribute" => "plan" })).to eq("Mean visit length is the same in all groups: 0 s.")
    end
  end

  it "names the time of the week when most begin, and the groups with the longest and the shortest visits" do
    people = (1..120).to_h do |id|
      minutes = id.even? ? [0, 20] : [0, 4]
      [id, { events: minutes.map { |minute| { type: "ride_ended", at: Time.utc(2026, 3, 24, 9, minute) } }, attributes: [{ name: "plan", at: Time.utc(2026), value: id.even? ? "day" : "monthly" }] }]
    end
    population = Population.new(people, event_types: { "ride_ended" => {} }, attributes: { "plan" => "text" })
    with_ledger(population) do |ledger|
      finding = ->(question) { analysis("visits", { "from" => "2026-03-01", **question }, ledger, as_of: Date.new(2026, 3, 31)).over.finding }
      expect(finding.call({})).to eq("120 visits by 120 people (1 per person), median length 12 min, 0% single-event. Busiest hour: Tuesdays 9:00–10:00.")
      expect(finding.call("by" => { "attribute" => "plan" })).to eq("Longest visits: “day”, mean 20 min, 1 per person; shortest: “monthly”, 4 min, 1 per person.")
      expect(finding.call("from" => "2026-03-30")).to eq("No visits in this period.")
      { { "newness" => true, "by" => { "attribute" => "plan" } } => /choose one split only/, { "edges" => [5, 5] } => /boundaries must be in ascending order/,
        { "from" => "1990-01-01", "step" => "day" } => /choose a longer one, or a shorter period/, { "to" => "2026-02-01" } => /before it starts/, { "by_first" => "nothing" } => /no property/ }.each do |question, message|
        expect { finding.call(question) }.to raise_error(Estrel::Analyses::Invalid, message)
      end
    end
  end
end
