# frozen_string_literal: true

# Experience against plain Ruby, one person at a time.
RSpec.describe Estrel::Analyses::Experience do
  # Each is asked along another of five things.
  seeds = Checks.seeds(10)

  # How far somebody had got at each event, by what is counted up; nothing where that cannot be told.
  def so_far(reference, person, date, along)
    events = person[:events].select { |row| reference.day(row[:at]) <= date }.sort_by { |row| row[:at] }
    visits = reference.send(:visits, person, date)
    events.map do |row|
      start = reference.send(:visit, person, row)
      number = case along
               when "visit" then start && (visits.index { |visit| visit[:at] == start } + 1)
               when "time" then reference.send(:so_far, person, "minutes_spent", row)
               when "level" then events.select { |one| one[:type] == "ride_ended" && one[:at] <= row[:at] }.filter_map { |one| one[:km] }.max
               else (reference.day(row[:at]) - reference.send(:first_seen, person)).to_i / (along == "week" ? 7 : 1)
               end
      [row, number]
    end
  end

  # The number of the last place somebody has got to, or of time, that has passed.
  def farthest(reference, person, date, along, places, reached)
    return places.rindex { |place| reached.compact.max&.>=(place.begin) } unless %w[day week].include?(along)

    size = along == "week" ? 7 : 1
    age = (date - reference.send(:first_seen, person)).to_i
    places.rindex { |place| age >= (place.end ? ((place.end + 1) * size) - 1 : ((place.begin + 1) * size) - 1) }
  end

  # How many visits people paid at a place, or how many days or weeks they had there.
  def exposure(people, known, one, reference, along, place)
    return if %w[time level].include?(along)
    if along == "visit"
      return people.sum { |person| known[person].filter_map(&:last).uniq.count { |number| place.cover?(number) } }
    end

    people.sum do |person|
      age = (one.as_of - reference.send(:first_seen, person)).to_i + 1
      whole = along == "week" ? age / 7 : age
      [whole, place.end ? place.end + 1 : whole].min - place.begin
    end
  end

  seeds.each_with_index do |seed, index|
    it "puts what everybody did where plain Ruby does, and leaves out whoever has not got so far (seed #{seed})" do
      random = Random.new(seed)
      along = %w[visit day week time level][index % 5]
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        rides = { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 1 }] }
        told = [{}, { "audiences" => [1, 2] }, { "by" => { "attribute" => "plan" }, "top" => 2 }, { "by" => { "grouping" => 1 } }, { "by" => { "grouping" => 2 } }].sample(random: random)
        from = random.rand < 0.3 ? { "from" => (one.as_of - random.rand(60)).iso8601 } : {}
        question = { "series" => [rides, { "any_event" => true }], "along" => along, "edges" => [[1, 2, 3], [1, 3, 8, 20]].sample(random: random), "level" => { "event" => "ride_ended", "property" => "km" }, **told, **from }
        analysis = described_class.ask(question, one.workspace(parts: 3))
        reference = Reference.new(population, one.rules, [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] })
        people = population.people.values.select do |person|
          reference.exists?(person, one.as_of) && (from.empty? || reference.send(:first_seen, person) >= Date.parse(from["from"]))
        end
        known = people.to_h { |person| [person, so_far(reference, person, one.as_of, along)] }

        answer = analysis.over
        cells = answer.tables.first.rows.map(&:cells)
        answer.picture[:rows].each_with_index do |row, line|
          theirs = known.select { |person, _| reference.fits?(row[:group][:people_in], person, one.as_of) }
          ends = theirs.to_h { |person, found| [person, farthest(reference, person, one.as_of, along, analysis.places, found.map(&:last))] }
          meant = theirs.transform_values { |found| found.select { |event, _| row[:series] == 1 || (event[:type] == "ride_ended" && event[:km].to_f >= 1) } }
          analysis.places.each_with_index do |place, at|
            about = "#{question} #{row[:name]} #{place}"
            got = ends.select { |_, last| last && last >= at }.keys
            done = got.map { |person| meant[person].count { |_, number| number && place.begin <= number && (place.end.nil? || number < place.end + 1) } }
            expect(row[:reached][at]).to eq(got.size), about
            expect(row[:times][at]).to eq(done.sum), about
            expect(row[:people][at]).to eq(done.count(&:positive?)), about
            opened = people.count { |person| reference.fits?({ "all" => [cells[at]["people_#{line}"]] }, person, one.as_of) }
            expect(opened).to eq(row[:people][at]), about
            spent = exposure(got, known, one, reference, along, place)
            expect(row[:rates][at]).to eq(spent.nil? || spent.zero? ? nil : done.sum.fdiv(spent)), about
            expect(row[:per_person][at]).to eq(got.empty? ? nil : done.sum.fdiv(got.size)), about
          end
        end
      end
    end
  end

  # People who plan trips at first and end rides later: those of an even number pay ten visits, the others two.
  def finding(question)
    people = (1..120).to_h do |id|
      visits = id.even? ? 10 : 2
      [id, { events: Array.new(visits) { |visit| { type: visit < 3 ? "trip_planned" : "ride_ended", at: Time.utc(2026, 3, 1 + visit, 9) } }, attributes: [] }]
    end
    population = Population.new(people, event_types: { "trip_planned" => {}, "ride_ended" => { "km" => "number" } })
    with_ledger(population) { |ledger| return analysis("experience", question, ledger, as_of: Date.new(2026, 3, 31)).over }
  end

  it "says from where on one thing is done more than another, where most is done, and how many have got how far" do
    both = { "series" => [{ "event" => "trip_planned" }, { "event" => "ride_ended" }] }
    expect(finding(both).finding).to eq("“ended a ride” is higher than “planned a trip” from visits 4–5 on: 1.000 vs 0 at visit 1, 0 vs 1.000 at visits 6–10 (“planned a trip” vs “ended a ride”, times per visit).")
    one = finding({ "series" => [{ "event" => "trip_planned" }], "edges" => [1, 2, 3, 4] })
    expect(one.finding).to eq("Planned a trip: highest at visit 1, 1.000 times per visit; lowest at visit 4 or later, 0. 60 of 120 people reached visit 4 or later.")
    expect(one.picture[:rows].first[:reached]).to eq([120, 120, 60, 60])
    expect(finding({ "series" => [{ "event" => "ride_ended" }], "from" => "2026-03-05" }).finding).to eq("Not enough data: fewer than 50 people reached a second stage.")
  end

  it "refuses edges out of order, visits before the first, and levels of nothing" do
    { { "edges" => [2, 2] } => /boundaries must be in ascending order/, { "edges" => [0, 2] } => /counted from 1/, { "along" => "level" } => /choose a numeric property for the level/,
      { "along" => "level", "level" => { "event" => "trip_planned", "property" => "km" } } => /choose a numeric property for the level/, { "from" => "2026-05-01" } => /after the as-of date/ }.each do |question, message|
      expect { finding({ "series" => [{ "event" => "ride_ended" }], **question }) }.to raise_error(Estrel::Analyses::Invalid, message)
    end
  end
end
