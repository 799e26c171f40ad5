# frozen_string_literal: true

# What a chance depends on, against plain Ruby; the regression and the c-statistic against R; and whether a model finds what was planted.
RSpec.describe Estrel::Propensity do
  # R 4.2: glm(y ~ x + z, family = binomial), of glm(y ~ x) sqrt(diag(vcov)) and the sandwich of rowsum(scores, p); optim over the penalised likelihood of scaled columns; DeLong by its definition.
  it "fits, and tells apart, as R does" do
    rows = Polars::DataFrame.new({ "x" => [0.5, 1.2, -0.3, 2.2, 0.1, -1.4, 0.7, 1.9, -0.8, 0.3, 1.1, -0.2], "z" => [1, 0, 0, 1, 1, 0, 1, 1, 0, 0, 0, 1].map(&:to_f),
                                   "y" => [1, 1, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0].map(&:to_f) })
    plain = Estrel::Statistics::Logistic.fit(rows, "y", %w[x z], ridge: 0.0)
    [[plain[:intercept], -0.0263227521283], [plain[:weights]["x"], 5.8654847509090], [plain[:weights]["z"], -3.6079598301586]].each { |found, told| expect(found).to be_within(1e-8).of(told) }
    ridge = Estrel::Statistics::Logistic.fit(rows, "y", %w[x z])
    [[ridge[:weights]["x"], 1.3663021187], [ridge[:weights]["z"], -0.7273266951], [ridge[:intercept], -0.2194088984]].each { |found, told| expect(found).to be_within(1e-5).of(told) }
    people = rows.with_columns([Polars::Series.new("p", [1, 1, 2, 3, 3, 4, 5, 5, 6, 7, 7, 7])])
    errors = [nil, "p"].map { |cluster| Estrel::Statistics::Logistic.fit(people, "y", %w[x], ridge: 0.0, cluster: cluster)[:errors]["x"] }
    expect(errors).to match([be_within(1e-6).of(2.45847038026), be_within(1e-6).of(1.569025885662)])
    found = Estrel::Statistics::Discrimination.compared(rows.with_columns([(Polars.col("z") * -1).alias("w")]), "y", "x", "w")
    { one: [0.9444444444444, 0.0657342198122], other: [0.5, 0.158113883008], difference: [0.4444444444444, 0.186752625711] }.each do |name, (estimate, error)|
      expect(found[name][:estimate]).to be_within(1e-10).of(estimate)
      expect(found[name][:high] - found[name][:low]).to be_within(1e-9).of(2 * Estrel::Statistics::Normal::Z * error)
    end
  end

  # All that is known of one person at the end of a day, and whether it happened since.
  def told(reference, person, rules, date, within, kind)
    known = reference.known_of(person, date, within, kind) or return
    days = reference.send(:activity_days, person, date + within)
    happened = kind == "come_back" ? days.any? { |day| day > date } : (date + within - days.max).to_i >= rules.active_within
    { **known, "happened" => happened ? 1.0 : 0.0 }
  end

  Checks.seeds(3).each do |seed|
    it "knows of everybody what plain Ruby does, and what happened since (seed #{seed})" do
      random = Random.new(seed)
      population = RandomPopulation.new(seed).population
      with_ledger(population, tail: seed) do |ledger|
        one = AskedAnalyses.new(seed, population, ledger)
        reference = Reference.new(population, one.rules, {})
        within = 7 + random.rand(20)
        date = one.as_of - within
        evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: one.as_of, rule_set: one.rules)
        spend = { "event" => "pass_bought", "property" => "price" }
        features = described_class::Features.new(evaluator, within, spend)
        described_class::KINDS.each do |kind|
          found = features.at(kind, date).join(features.outcome(kind, date), on: "profile_id", how: "left")
                          .with_columns([Polars.col("happened").fill_null(kind == "lapse" ? 1.0 : 0.0)]).rows(named: true).to_h { |row| [row["profile_id"], row.except("profile_id")] }
          wanted = population.people.to_h { |id, person| [id, told(reference, person, one.rules, date, within, kind)] }.compact
          expect(found.keys).to match_array(wanted.keys)
          wanted.each { |id, row| row.each { |name, value| expect(found[id][name]).to be_within(1e-9).of(value), "#{kind} #{id} #{name}: #{found[id][name]} instead of #{value}" } }
        end
      end
    end
  end

  # People who ride every few days, a pace of their own, and stop for good or only for a while: those of a quick pace who have stopped long stay away.
  def made_up(seed, people: 900, days: 330)
    random = Random.new(seed)
    made = (1..people).to_h do |id|
      pace = id.even? ? 3 : 25
      day = random.rand(60)
      ridden = []
      while day < days
        ridden << day
        day += 1 + random.rand(2 * pace)
        day += 30 + random.rand(90) if random.rand < 0.12
        break if random.rand < (id.even? ? 0.03 : 0.02)
      end
      [id, { events: ridden.map { |one| { type: "ride_ended", at: Time.utc(2026, 1, 1, 9) + (one * 86_400) } }, attributes: [] }]
    end
    Population.new(made, event_types: { "ride_ended" => {} })
  end

  def learned(population, question = {}, rules: Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 14, active_within: 20, churned_after: 60))
    with_ledger(population) { |ledger| return analysis("chance", question, ledger, as_of: Date.new(2026, 11, 20), rules: rules).over }
  end

  it "is calibrated, beats days inactive where people have paces of their own, and opens into the people of a tenth" do
    population = made_up(5)
    answer = learned(population)
    expect(answer.finding).to match(/\A\d+ of \d+ dormant or churned people are expected to be reactivated within 30 days\. Backtest: \d+% of the top decile did .*, lift .*; better than days inactive alone \(AUC/)
    picture = answer.picture
    expect(picture[:discrimination][:difference][:low]).to be_positive
    inside = picture[:tenths].count { |tenth| tenth[:predicted].between?(tenth[:low] - 0.02, tenth[:high] + 0.02) }
    expect(inside).to be >= 8
    expect(learned(population, { "of" => "lapse" }).finding).to match(/\A\d+ of \d+ new or active people are expected to lapse within 30 days\./)
    with_ledger(population) do |ledger|
      rules = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 14, active_within: 20, churned_after: 60)
      evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 11, 20), rule_set: rules)
      counted = answer.tables.first.rows.map { |row| evaluator.mask(Estrel::Audience::Definition.parse(row.people, catalogue: ledger.catalogue).root).sum }
      expect(counted).to eq(answer.tables.first.rows.map { |row| row.values[1] })
    end
  end

  it "refuses to learn from too few, with how many it takes" do
    expect(learned(made_up(6, people: 20)).finding).to match(/\ANot enough data to train on: at least 110 people who were reactivated and 110 others are needed; there are \d+ and \d+\.\z/)
    expect(learned(made_up(6, people: 20), { "of" => "lapse" }).picture).to include(model: nil, tenths: [])
  end
end
