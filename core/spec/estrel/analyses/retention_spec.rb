# frozen_string_literal: true

# Retention against plain Ruby: every start is gone through again, one person and one return at a time.
RSpec.describe Estrel::Analyses::Retention do
  kinds = %w[in or_later and_before every by ranges] * 2
  asked = kinds.zip(Checks.seeds(kinds.size))

  # The instants at which somebody began, with the number of the cohort.
  def begun(reference, person, question, analysis, as_of, then_so)
    rows = reference.send(:selected, question["start"], person, as_of, {})
    rows = rows.first(1) if analysis.first?
    rows = rows.select { |row| reference.send(:all_hold?, then_so, row, person) }
    numbered = rows.map { |row| [row[:at], analysis.periods.index { |period| reference.day(row[:at]).between?(period[:from], period[:to]) }] }
    analysis.first? ? numbered.first(1).select(&:last) : numbered.select(&:last).uniq(&:last)
  end

  # The numbers of the periods after a start in which there is a return.
  def came_back(reference, person, start, analysis, as_of)
    at, cohort = start
    returns = reference.send(:selected, analysis.question["return"], person, as_of, {}).select { |row| row[:at] > at }
    unit = { "day" => 1, "week" => 7, "month" => 30 }.fetch(analysis.steps.unit) * 86_400
    returns.filter_map do |row|
      next ((row[:at] - at) / unit).ceil - 1 if analysis.elapsed?

      period = analysis.periods.index { |one| reference.day(row[:at]).between?(one[:from], one[:to]) }
      period && (period - cohort)
    end.uniq
  end

  def counts?(periods, place, counted)
    last = place.end
    case counted
    when "in", "ranges" then periods.any? { |period| place.cover?(period) }
    when "or_later" then periods.any? { |period| period >= last }
    when "and_before" then periods.include?(last) && periods.include?(last - 1)
    when "every" then (1..last).all? { |period| periods.include?(period) }
    else periods.any? { |period| period.between?(1, last) }
    end
  end

  asked.each do |counted, seed|
    it "counts who came back as plain Ruby does, and the people behind every cell (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        rides = { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 1 }] }
        told = [{}, { "audiences" => [1, 2] }, { "by" => { "attribute" => "plan" }, "top" => 2 }, { "by" => { "attribute" => "plan" }, "top" => 1 }, { "by" => { "grouping" => 1 } }, { "by" => { "grouping" => 2 } }].sample(random: random)
        step, days = [["day", 12], ["week", 60], ["month", 70]].sample(random: random)
        ranges = counted == "ranges" ? { "ranges" => [[0, 0], [1, 2], [0, 1]] } : {}
        question = { "start" => [rides, { "any_event" => true }, { "event" => "pass_bought" }].sample(random: random), "return" => [rides, { "event" => "pass_bought" }].sample(random: random),
                     "starts" => %w[first each].sample(random: random), "step" => step, "elapsed" => random.rand < 0.3, "counted" => counted,
                     "from" => (one.as_of - days).iso8601, **ranges, **told }
        analysis = described_class.ask(question, one.workspace(parts: 3))
        answer = analysis.over
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        people = population.people.values.select { |person| reference.exists?(person, one.as_of) }
        answer.picture[:rows].each_with_index do |row, place|
          theirs = people.select { |person| reference.fits?(row[:group][:people_in], person, one.as_of) }
          starts = theirs.flat_map { |person| begun(reference, person, question, analysis, one.as_of, one.then_so(answer, row)).map { |start| [start.last, came_back(reference, person, start, analysis, one.as_of)] } }
          table = answer.tables.find { |found| found.key == "cohorts_#{place}" }
          analysis.periods.each_index do |cohort|
            own = starts.select { |number, _| number == cohort }.map(&:last)
            about = "#{question} #{row[:name]} #{cohort}"
            expect(row[:sizes][cohort]).to eq(own.size), about
            expect(row[:cells][cohort]).to eq(analysis.places.map { |range| own.count { |periods| counts?(periods, range, counted) } }), about
            table.rows[cohort].cells.each do |key, condition|
              number = theirs.count { |person| reference.fits?(condition, person, one.as_of) }
              expect(number).to eq(row[:cells][cohort][key.delete_prefix("at_").to_i]), "#{about} #{key}"
            end
          end
        end
      end
    end
  end

  # People 1 to `count` begin on their days of March and come back after some days.
  def asked(people, question = {}, as_of: Date.new(2026, 3, 31), today: as_of + 1)
    histories = people.each_with_index.to_h do |(first, *later), index|
      events = [["plan", first], *later.map { |time| ["ride", time] }].map { |type, at| { type: type, at: at } }
      [index + 1, { events: events, attributes: [] }]
    end
    with_ledger(Population.new(histories, event_types: { "plan" => {}, "ride" => {} }, time_zone: "Europe/Berlin")) do |ledger|
      question = { "start" => { "event" => "plan" }, "return" => { "event" => "ride" }, "from" => "2026-03-02", **question }
      return analysis("retention", question, ledger, as_of: as_of, today: today).over
    end
  end

  def at(day, hour = 12, minute = 0) = Time.utc(2026, 3, day, hour, minute)

  it "counts what follows the start only, days as the calendar has them or from the instant, and hatches what has not passed" do
    people = [[at(2), at(2), at(3, 11)], [at(2), at(2, 12, 1), at(9)], [at(29, 0, 30), at(29, 22, 30)]]
    picture = asked(people, { "step" => "day" }).picture
    expect([picture[:rows][0][:cells][0].first(3), picture[:rows][0][:cells][27].first(2)]).to eq([[1, 1, 0], [0, 1]])
    elapsed = asked(people, { "step" => "day", "elapsed" => true }).picture
    expect([elapsed[:rows][0][:cells][0].first(3), elapsed[:rows][0][:cells][27].first(2)]).to eq([[2, 0, 0], [1, 0]])
    at_once = asked([[at(2), at(3)], [at(2), at(3, 12, 1)]], { "step" => "day", "elapsed" => true })
    expect(at_once.picture[:rows][0][:cells][0].first(2)).to eq([1, 1])
    expect([picture[:cohorts][29][:places].first(2), elapsed[:cohorts][29][:places].first(2)]).to eq([[true, false], [false, false]])
    expect(picture[:cohorts][27][:places].first(4)).to eq([true, true, true, false])
    expect(asked(people, { "step" => "day" }, today: Date.new(2026, 3, 31)).picture[:cohorts][27][:places].first(3)).to eq([true, true, false])
    expect(asked([[at(2)]], { "start" => { "event" => "ride" } }).finding).to eq("No one started in this period.")
  end

  it "tells of complete cohorts only, weighted by people, with intervals, and where it settles" do
    people = Array.new(200) do |number|
      later = { 0 => [[9, 13], [16, 9]], 3 => [] }.fetch(number % 4, [[9, 13]])
      [at(2 + (number % 14)), *later.map { |day, hour| at(day + (number % 14), hour) }]
    end
    answer = asked(people)
    point = answer.picture[:rows][0][:curve][1]
    expect(point.values_at(:people, :size, :share)).to eq([150, 200, 0.75])
    expect(point[:low]..point[:high]).to eq(Range.new(*Estrel::Statistics::Shares.wilson(150, 200)))
    expect(answer.finding).to match(/\AWeek 1 retention 75% \(95% CI 69% to 80%\), week 2 25% \(.*\); 200 people who first had “plan” events\. Largest drop: week 1 to week 2 \(75% to 25%\)\.\z/)
    each = asked(people, { "starts" => "each" }).picture[:rows][0][:curve][1]
    expect([each[:share], each[:low] < 0.75, each[:high] > 0.75]).to eq([0.75, true, true])
  end

  it "draws a line through one period, cohort by cohort" do
    back = [15, 30, 45, 0]
    people = back.each_with_index.flat_map do |count, week|
      Array.new(60) { |number| [at(2 + (7 * week)), *(number < count ? [at(9 + (7 * week))] : [])] }
    end
    answer = asked(people, { "at" => 1 })
    row = answer.picture[:rows][0]
    expect(row[:over_time].first(3)).to eq([0.25, 0.5, 0.75])
    expect(row[:trend][:slope]).to be_within(1e-12).of(0.25)
    expect(answer.finding).to eq("Week 1 retention 50% (95% CI 43% to 57%); 180 people who first had “plan” events. Significantly different cohorts in week 1: highest 16 Mar to 22 Mar 2026 (75%), lowest 2 Mar to 8 Mar 2026 (25%).")
  end

  it "has intervals for people who begin several times that hold the truth nineteen times in twenty" do
    random = Random.new(4)
    held = Array.new(400) do
      blocks = Array.new(20) do
        Array.new(10) { [random.rand < 0.5 ? 0.2 : 0.6, 1 + random.rand(8)] }.map { |share, starts| [Array.new(starts) { random.rand }.count { |one| one < share }, starts] }.transpose.map(&:sum)
      end
      Estrel::Statistics::Shares.jackknife(blocks).then { |low, high| (low..high).cover?(0.4) }
    end
    expect(held.count(true)).to be_between(366, 394)
  end

  # R 4.2: m <- lm(y ~ x, weights = w); coef(m); confint(m)
  it "fits the weighted line that R fits" do
    line = Estrel::Statistics::WeightedLine.of([[0, 0.30, 50], [1, 0.28, 80], [2, 0.35, 20], [3, 0.24, 90]])
    expect(line.slope).to be_within(1e-12).of(-0.0179925650557621)
    expect([line.low, line.high]).to match([be_within(1e-9).of(-0.0816373580339853), be_within(1e-9).of(0.0456522279224611)])
  end

  it "takes a start that is its own return, people alone in their cohorts, ranges that overlap, and everybody who came back" do
    daily = { "step" => "day" }
    same = asked([[at(2)], [at(3)]], { **daily, "return" => { "event" => "plan" } })
    expect(same.picture[:rows][0].values_at(:sizes, :cells).map { |found| found.flatten.sum }).to eq([2, 0])
    twice = asked([[at(2), at(4)]], { **daily, "start" => { "event" => "ride" }, "starts" => "each", "return" => { "event" => "ride" } })
    expect(twice.picture[:rows][0][:sizes].first(4)).to eq([0, 0, 1, 0])
    alone = asked((2..28).map { |day| [at(day), at(day + 1)] }, daily)
    expect(alone.finding).to eq("Not enough data: fewer than 50 people have had time to return.")
    expect(alone.picture[:rows][0][:curve][1].values_at(:people, :size)).to eq([27, 27])
    ranges = asked([[at(2), at(3), at(9)], [at(2), at(10)]], { **daily, "counted" => "ranges", "ranges" => [[0, 3], [1, 7]] })
    expect(ranges.picture[:rows][0][:cells][0]).to eq([1, 1])
    all = asked(Array.new(60) { [at(2), at(3)] }, daily).picture[:rows][0][:curve][1]
    expect([all[:share], all[:low], all[:high]]).to match([1.0, be_within(0.001).of(0.94), be_within(1e-9).of(1.0)])
  end

  it "refuses what cannot be told, and says why" do
    { { "step" => "day", "from" => "2025-03-02" } => /choose weeks or months, or a shorter period/, { "counted" => "ranges" } => /define the period ranges/,
      { "counted" => "ranges", "ranges" => [[3, 1]] } => /ends before it begins/, { "counted" => "ranges", "ranges" => [[0, 40]] } => /only 5 weeks/,
      { "step" => "month", "counted" => "every" } => /choose a longer period or a shorter interval/, { "return" => { "event" => "walk" } } => /walk/ }.each do |question, message|
      expect { asked([[at(2)]], question) }.to raise_error(Estrel::Analyses::Invalid, message)
    end
  end
end
