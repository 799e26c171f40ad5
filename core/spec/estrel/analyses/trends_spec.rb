# frozen_string_literal: true

# Trends against plain Ruby: every line says of whom and of which events it is, so each of its values is counted again
# from these, one person and one event at a time.
RSpec.describe Estrel::Analyses::Trends do
  measures = Estrel::Analyses::EventMeasure::NEEDS.keys
  seeds = Checks.seeds(measures.size)

  def starts(step, from, to)
    first = { "day" => from, "week" => from - (from.cwday - 1), "month" => Date.new(from.year, from.month, 1) }.fetch(step)
    found = []
    while first <= to
      found << first
      first = if step == "month"
                first >> 1
              else
                first + (step == "week" ? 7 : 1)
              end
    end
    found << first
  end

  def periods(step, from, to) = starts(step, from, to).each_cons(2).map { |start, after| [start, [after - 1, to].min] }

  def earlier(step, how, periods)
    count = how == "year" ? 12 : periods.size
    if step == "month"
      return periods.map { |from, to| [from << count, to.next_day.day == 1 ? (to.next_day << count) - 1 : to << count] }
    end

    days = if how == "year"
             364
           else
             periods.size * (step == "week" ? 7 : 1)
           end
    periods.map { |range| range.map { |date| date - days } }
  end

  # The middle ones, or what lies between two values.
  def quantile(values, share)
    place = share * (values.size - 1)
    values.sort.values_at(place.floor, place.ceil).then { |low, high| low + ((high - low) * (place - place.floor)) }
  end

  def measured(measure, people, values, active)
    { "people" => people.size, "times" => people.sum(&:size), "sum" => values.sum.to_f, "distinct" => values.uniq.size }.fetch(measure) do
      case measure
      when "share_of_active" then active.zero? ? nil : people.size.fdiv(active)
      when "per_person" then people.empty? ? nil : people.sum(&:size).fdiv(people.size)
      when "sum_per_person" then people.empty? ? nil : values.sum.fdiv(people.size)
      else
        next if values.empty?

        { "mean" => values.sum.fdiv(values.size), "median" => quantile(values, 0.5), "p90" => quantile(values, 0.9),
          "min" => values.min, "max" => values.max }.fetch(measure)
      end
    end
  end

  # The values with lines of their own are those that are the greatest where all are told.
  def expect_the_most(answer, everything, measure)
    values = ->(found) { found.picture[:rows].select { |row| row[:group][:kind] == "value" }.group_by { |row| row[:group][:value] } }
    figures = values.call(everything).transform_values do |rows|
      totals = rows.filter_map { |row| row[:total] }
      (%w[people times sum].include?(measure) ? totals.sum : totals.max)&.round(6) || -Float::INFINITY
    end
    told = values.call(answer).keys
    expect(told.map { |value| figures.fetch(value) }).to eq(figures.values.max(told.size)), "#{told} of #{figures}"
  end

  # Ways of telling people and events apart.
  def ways(property)
    plan = { "attribute" => "plan" }
    by = [plan, { "state" => true }, { "grouping" => 1 }, { "grouping" => 2 }, { "attribute" => "age" }, { **plan, "as_of" => true }]
    both = [[plan, { "profile_type" => true }], [{ "state" => true }, plan], [{ "attribute" => "age" }, plan]]
    [{}, { "audiences" => [1, 2] }, { "by_event" => property }, { "by_event" => property, "by" => plan }, *by.map { |one| { "by" => one } }, *both.map { |two| { "by" => { "both" => two } } }]
  end

  measures.zip(seeds).each do |measure, seed|
    it "counts #{measure} of every line, period and group as plain Ruby does (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        step = %w[day week month].sample(random: random)
        from = one.as_of - random.rand(40)
        passes = { "event" => "pass_bought" }
        series = [passes, { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 1 }] }, { "events" => %w[ride_ended pass_bought] }]
        property = "price" if Estrel::Analyses::EventMeasure::OF_PROPERTY.include?(measure)
        cheap = { **passes, "where" => [{ "property" => "price", "compare" => "less", "value" => 2 }] }
        series = [passes, cheap] if property
        told = ways(property || "km").sample(random: random)
        series = series.drop(1) if told["by_event"] == "km"
        behind = [nil, "previous", "year"].sample(random: random)
        question = { "series" => series, "measure" => measure, "property" => property, "from" => from.iso8601, "step" => step, "behind" => behind, "top" => 2, **told }.compact
        answer = described_class.ask(question, one.workspace(parts: 3)).over
        audiences = [1, 2].to_h { |id| [id, one.stored.audience(id).definition.to_h] }
        reference = Reference.new(population, one.rules, audiences)
        count = lambda do |row, (first, last)|
          members = population.people.values.select { |person| reference.exists?(person, one.as_of) && reference.fits?(row[:group][:people_in], person, one.as_of) }
          window = { "from" => first.iso8601, "to" => last.iso8601 }
          own = members.map { |person| reference.send(:selected, row[:did], person, one.as_of, window) }.reject(&:empty?)
          # Only events that have the property at all are looked at.
          then_so = told["by_event"] ? [] : row[:did]["where"].drop(series[row[:series]]["where"].to_a.size)
          activity = { "events" => one.rules.event_types, "where" => then_so }
          active = (told["by_event"] ? population.people.values : members).count { |person| reference.send(:selected, activity, person, one.as_of, window).any? }
          measured(measure, own, own.flatten.filter_map { |event| event[(property || "km").to_sym] }, active)
        end

        all_values = described_class.ask({ **question, "top" => 11 }, one.workspace(parts: 2)).over if told["by_event"]
        expect_the_most(answer, all_values, measure) if all_values
        now = periods(step, from, one.as_of)
        same = ->(found, expected) { found.nil? || expected.nil? ? found == expected : (found - expected).abs < 1e-9 }
        answer.picture[:rows].each_with_index do |row, index|
          people = answer.tables.first.rows[index].cells["total"]
          if people.key?("any")
            opened = population.people.values.count { |person| reference.exists?(person, one.as_of) && reference.fits?(people, person, one.as_of) }
            next measure == "people" ? expect(opened).to(eq(row[:total]), "#{question} #{row[:name]}") : nil
          end

          row = { **row, did: [people, *people["all"]].filter_map { |condition| condition["did"] }.first }
          expected = now.map { |period| count.call(row, period) }
          expect(row[:values].zip(expected).all? { |pair| same.call(*pair) }).to be(true), "#{question} #{row[:name]}: #{row[:values]} instead of #{expected}"
          expect(same.call(row[:total], count.call(row, [now.first.first, one.as_of]))).to be(true), "#{question} #{row[:name]}: total #{row[:total]}"
          before = behind ? earlier(step, behind, now).map { |period| count.call(row, period) } : next
          expect(row[:behind].zip(before).all? { |pair| same.call(*pair) }).to be(true), "#{question} #{row[:name]}: #{row[:behind]} instead of #{before}"
        end
      end
    end
  end

  describe "edges" do
    let(:population) do
      person = ->(*rows) { { events: rows.map { |type, at, price| { type: type, at: at, price: price } }, attributes: [] } }
      Population.new({ 1 => person.call(["bought", Time.utc(2026, 3, 2, 23, 30), 2.0], ["bought", Time.utc(2026, 3, 9, 0, 0), 4.0], ["rode", Time.utc(2026, 3, 9, 1), nil]),
                       2 => person.call(["bought", Time.utc(2026, 3, 15, 22, 59), nil], ["bought", Time.utc(2026, 3, 15, 23, 0), 10.0]) },
                     time_zone: "Europe/Berlin", event_types: { "bought" => { "price" => "number", "shop" => "text" }, "rode" => {} })
    end
    let(:rules) { Estrel::Lifecycle::RuleSet.new(activity: %w[bought], new_for: 3, active_within: 3, churned_after: 9) }

    def asked(question, as_of: Date.new(2026, 3, 16), today: as_of, rules: self.rules)
      with_ledger(population) { |ledger| return analysis("trends", { "from" => "2026-03-02", "step" => "week", **question }, ledger, as_of: as_of, today: today, rules: rules).over }
    end

    def values(question, **asked) = asked(question, **asked).picture[:rows].map { |row| row[:values] }

    it "tells apart by what an attribute was when it happened, set at that instant included, whatever it is now" do
      plans = [["a", Time.utc(2020, 1, 1)], ["b", Time.utc(2026, 3, 9)], ["c", Time.utc(2026, 3, 30)]]
      riders = { 1 => { events: [Time.utc(2026, 3, 8, 23, 59, 59), Time.utc(2026, 3, 9), Time.utc(2026, 3, 11)].map { |at| { type: "rode", at: at } },
                        attributes: plans.map { |value, at| { name: "plan", at: at, value: value } } },
                 2 => { events: [{ type: "rode", at: Time.utc(2026, 3, 12) }], attributes: [{ name: "plan", at: Time.utc(2026, 3, 12, 1), value: "a" }] } }
      with_ledger(Population.new(riders, event_types: { "rode" => {} }, attributes: { "plan" => "text" })) do |ledger|
        answer = analysis("trends", { "series" => [{ "event" => "rode" }], "measure" => "times", "from" => "2026-03-02", "step" => "week", "by" => { "attribute" => "plan" } }, ledger, as_of: Date.new(2026, 3, 31)).over
        expect(answer.picture[:rows].to_h { |row| [row[:name], row[:values].first(2)] }).to eq("b" => [0, 2], "a" => [1, 0], "not set" => [0, 1])
      end
    end

    it "gives lines of their own to the values with the most of what is measured over the whole range, or with the most people or events" do
      bought = ->(shop, *prices) { prices.map { |price| { type: "bought", at: Time.utc(2026, 3, 9), shop: shop, price: price } } }
      shoppers = { 1 => [*bought.call("a", 2.0, 2.0, 2.0), *bought.call("c", 1.0)], 2 => bought.call("b", 10.0), 3 => [*bought.call("c", 1.0), *bought.call("d", nil)] }
      shoppers = shoppers.transform_values { |events| { events: events, attributes: [] } }
      with_ledger(Population.new(shoppers, event_types: { "bought" => { "price" => "number", "shop" => "text" } })) do |ledger|
        first = lambda do |measure, series: [{ "event" => "bought" }], **more|
          property = "price" if Estrel::Analyses::EventMeasure::OF_PROPERTY.include?(measure)
          question = { "series" => series, "measure" => measure, "property" => property, "from" => "2026-03-09", "by_event" => "shop", "top" => 1, **more }.compact
          analysis("trends", question, ledger, as_of: Date.new(2026, 3, 9), rules: rules).over.picture[:rows].first[:name]
        end
        expect(%w[people times sum mean median min distinct per_person sum_per_person share_of_active].map(&first)).to eq(%w[c a b b b b a a b c])
        expect(%w[people times].map { |most| first.call("mean", "most" => most) }).to eq(%w[c a])
        dear = { "event" => "bought", "where" => [{ "property" => "price", "compare" => "at_least", "value" => 2 }] }
        expect(first.call("times", series: [{ "event" => "bought" }, dear], "combined" => "minus")).to eq("c")
        expect(first.call("times", series: [{ "event" => "bought" }, dear], "combined" => "per")).to eq("a")
        expect(%w[sum max].map { |measure| first.call(measure, series: [{ "event" => "bought" }, dear]) }).to all(end_with(", b"))
      end
    end

    it "reads a type that was merged into another since as that one" do
      person = { events: [{ type: "rode", at: Time.utc(2026, 3, 9) }], attributes: [] }
      with_ledger(Population.new({ 1 => person }, event_types: { "rode" => {} }, aliases: { "rodé" => "rode" })) do |ledger|
        answer = analysis("trends", { "series" => [{ "event" => "rodé" }], "from" => "2026-03-09", "step" => "day" }, ledger, as_of: Date.new(2026, 3, 9)).over
        expect(answer.picture[:rows].first.values_at(:name, :total)).to eq(["had “rode” events", 1])
      end
    end

    it "has days as the reporting time zone has them, and counts a person once over the whole range" do
      answer = asked({ "series" => [{ "event" => "bought" }] })
      expect(answer.picture[:rows].first.values_at(:values, :total)).to eq([[1, 2, 1], 2])
      window = { "from" => "2026-03-02", "to" => "2026-03-16" }
      expect(answer.tables.first.rows.first.people).to eq({ "did" => { "event" => "bought", "where" => [], "count" => { "at_least" => 1 }, "window" => window } })
    end

    it "divides by nothing nowhere" do
      passes, rides = %w[bought rode].map { |event| { "event" => event } }
      expect(values({ "series" => [passes, rides], "combined" => "per", "measure" => "times" })).to eq([[nil, 2.0, nil]])
      expect(values({ "series" => [passes, rides], "combined" => "minus", "measure" => "times" })).to eq([[1, 1, 1]])
      expect(values({ "series" => [rides], "measure" => "per_person" })).to eq([[nil, 1.0, nil]])
      expect(values({ "series" => [rides], "measure" => "share_of_active" })).to eq([[0.0, 0.5, 0.0]])
    end

    it "leaves missing values out of measures of a property" do
      expect(%w[sum mean median max distinct].map { |measure| values({ "series" => [{ "event" => "bought" }], "measure" => measure, "property" => "price" }).first })
        .to eq([[2.0, 4.0, 10.0], [2.0, 4.0, 10.0], [2.0, 4.0, 10.0], [2.0, 4.0, 10.0], [1, 1, 1]])
      expect(values({ "series" => [{ "event" => "bought" }], "by_event" => "price", "top" => 1 })).to eq([[0, 0, 1], [1, 1, 0], [0, 1, 0]])
    end

    it "shows the most frequent of 50,000 values, the rest as others, and all of them together" do
      count = 50_000
      rows = Array.new(count) { |at| { type: "bought", at: Time.utc(2026, 3, 9) + at, price: at.to_f, shop: "shop #{at}" } } + Array.new(3) { { type: "bought", at: Time.utc(2026, 3, 10), shop: "shop 7" } }
      people = rows.each_slice(500).with_index.to_h { |own, id| [id + 1, { events: own, attributes: [] }] }
      with_ledger(Population.new(people, event_types: { "bought" => { "price" => "number", "shop" => "text" } })) do |ledger|
        %w[shop price].each do |property|
          rows = analysis("trends", { "series" => [{ "event" => "bought" }], "measure" => "times", "from" => "2026-03-09", "step" => "week", "by_event" => property, "top" => 2 }, ledger, as_of: Date.new(2026, 3, 16)).over.picture[:rows]
          expect(rows.to_h { |row| [row[:name], row[:total]] }).to include("49,998 other values" => count - 2, **(property == "shop" ? { "shop 7" => 4 } : { "not set" => 3 }))
          expect(rows.sum { |row| row[:total] }).to eq(count + 3)
        end
      end
    end

    it "says nothing of periods that are incomplete, begin before the data does, or have few people behind them" do
      expect(asked({ "series" => [{ "event" => "bought" }] }).finding).to eq("2 people had “bought” events in the last complete week (9 Mar 2026 to 15 Mar 2026).")
      expect(asked({ "series" => [{ "event" => "bought" }], "step" => "month" }).finding).to eq("No complete month in this period yet.")
      expect(asked({ "series" => [{ "event" => "rode" }] }, as_of: Date.new(2026, 3, 8)).finding).to eq("No one did this in this period.")
    end

    it "refuses what cannot be told, and says why" do
      { { "series" => [{ "event" => "bought" }], "measure" => "sum", "property" => "shop" } => /no property "shop" of bought that is a number/,
        { "series" => [{ "event" => "bought" }], "measure" => "mean" } => /no property/,
        { "series" => [{ "event" => "bought" }], "combined" => "per" } => /choose two events/,
        { "series" => [{ "event" => "gone" }] } => /gone/,
        { "series" => [{ "event" => "bought" }], "by_event" => "colour" } => /no property "colour" of bought/,
        { "series" => [{ "event" => "bought" }], "by" => { "attribute" => "colour" } } => /no attribute "colour"/, { "series" => [{ "event" => "bought" }], "by_event" => "shop", "by" => { "both" => [{ "state" => true }, { "profile_type" => true }] } } => /you can split by two things at most/,
        { "series" => [{ "event" => "bought" }], "by" => { "both" => [{ "state" => true }] * 2 } } => /choose two different splits/,
        { "series" => [{ "event" => "bought" }] * 6, "by_event" => "shop", "top" => 20 } => /too many lines \(132\); choose fewer events or values/,
        { "series" => [{ "event" => "bought" }], "from" => "2006-03-02", "step" => "day" } => /choose weeks or months, or a shorter period/,
        { "series" => [] } => /Series/ }.each do |question, message|
        expect { asked(question) }.to raise_error(message)
      end
      expect { asked({ "series" => [{ "event" => "bought" }], "measure" => "share_of_active" }, rules: nil) }.to raise_error(Estrel::Analyses::Analysis::NoRules)
    end
  end
end
