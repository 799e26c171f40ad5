# frozen_string_literal: true

# Who is exported, of random people, against the reference.
RSpec.describe "random exports against the reference" do
  seeds = Checks.seeds(25, every_run: 6)

  def list(addresses) = Estrel::Exports::Suppression::List.new(kind: "email", digests: addresses.to_set { |address| Estrel::Exports::Address.digest("email", address) })

  # What there is of most columns: facts, attributes and figures.
  def settings(ledger, mode, channel)
    figures = [{ "take" => "count", "event" => "ride_ended", "days" => 20 }, { "take" => "last", "event" => "pass_bought" }]
    attributes = ledger.catalogue.attributes.keys.map { |name| Estrel::Ledger::Layout.attribute(name) }
    address = %w[address].first(%w[email sms].include?(channel) ? 1 : 0)
    Estrel::Exports::Settings.parse("columns" => ["state", "first_day", "profile_type", *attributes, *address, *figures], "channel" => channel, "mode" => mode)
  end

  # Rows told part by part are those told of the whole at once.
  def expect_rows(evaluator, members, rules, standing, stood)
    %w[whole changes].each do |mode|
      settings = settings(evaluator.ledger, mode, rules.channel)
      delivery = Estrel::Exports::Delivery.new(settings, evaluator, members, rules, standing: standing, stood: stood)
      told = delivery.send(:told)
      columns = Estrel::Exports::Columns.new(evaluator, settings.columns, channel: rules.channel)
      expect(delivery.rows.rows).to eq(columns.frame(told).rows.zip(told.rows(named: true)).map { |row, person| [*person["change"], *row] })
      expect([delivery.size, delivery.headers, delivery.recipients["profile_id"].to_a]).to eq([told.height, delivery.rows.columns, told["profile_id"].to_a])
      expect(delivery.rows(2).rows).to eq(delivery.rows.rows.first(2))
    end
  end

  seeds.each do |seed|
    it "agrees on every person's step, which add up to the audience (seed #{seed})" do
      random = RandomPopulation.new(seed)
      population = random.population
      rule_set = random.rule_set
      date = random.date
      definition = random.definition(1, RandomPopulation::CONDITIONS - ["audience"])
      reference = Reference.new(population, rule_set)
      with_ledger(population, tail: seed) do |ledger|
        evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: date, rule_set: rule_set)
        rule_sets = Estrel::Audience::RuleSetSource.new(ledger.catalogue, ->(*) {}, ->(*) {})
        members = evaluator.members(Estrel::Audience::Definition.parse(definition, catalogue: ledger.catalogue, rule_sets: rule_sets))
        standing, holdout = %w[all export].map { |name| Estrel::Exports::Holdout.share("#{name} #{seed}", 0.3) }
        [nil, "email", "sms", "push"].each do |channel|
          messaged = Estrel::Exports::Suppression::Messaged.new(events: ["pass_bought"], days: 10)
          rules = Estrel::Exports::Suppression.new(channel: channel, messaged: messaged, lists: [list(["B.C@mail.example.org "])])
          waterfall = Estrel::Exports::Waterfall.new(evaluator, members, rules, standing: standing, holdout: holdout)
          ids = members.to_a
          expected = reference.waterfall(ids, date, channel: channel, events: ["pass_bought"], days: 10, listed: ["b.c@mail.example.org"],
                                                    held: { "standing_holdout" => standing, "holdout" => holdout }.transform_values { |one| ids.select { |id| one.place(id) < one.limit } })
          expect(waterfall.frame.rows.to_h { |id, step, _| [id, step] }).to eq(expected), "by #{channel}"
          expect(waterfall.counts.except("audience").values.sum).to eq(ids.size)
          expect_rows(evaluator, members, rules, standing, members.filter(Polars::Series.new("stood", ids.map(&:even?), dtype: Polars::Boolean)))
          # By a channel, those excluded for their address or consent are exactly those who cannot be reached.
          next unless channel

          unreachable = evaluator.invert(Estrel::Reach.new(ledger, date).mask(channel))
          told = %w[no_address invalid_address consent_withdrawn].flat_map { |step| waterfall.ids(step).to_a }.sort
          expect(told).to eq(ledger.profiles["profile_id"].filter(unreachable).to_a & ids)
        end
      end
    end
  end
end
