# frozen_string_literal: true

RSpec.describe Estrel::Exports do
  def holdout(...) = Estrel::Exports::Holdout.share(...)

  def column(...) = Estrel::Exports::Column.parse(...)

  def ids(*list) = Polars::Series.new("profile_id", list, dtype: Polars::Int64)

  # The first 32 bits of SHA-256 of "spring:1" and of "spring:2".
  it "holds out by the digest of name and profile, so that nothing else decides" do
    places = [1, 2].map { |id| holdout("spring", 1).place(id) }
    expect(places).to eq(%w[spring:1 spring:2].map { |text| OpenSSL::Digest.hexdigest("SHA256", text)[0, 8].to_i(16) })
    everybody = (1..20_000).to_a
    held = ->(one) { everybody.zip(one.mask(ids(*everybody)).to_a).filter_map { |id, out| id if out } }
    tenth = held.call(holdout("spring", 0.1))
    # Four standard deviations of a share of 0.1 among 20,000 are 170.
    expect(tenth.size).to be_between(1830, 2170)
    expect(held.call(holdout("spring", 0.2))).to include(*tenth)
    expect((held.call(holdout("autumn", 0.1)) & tenth).size).to be_between(140, 260)
    expect([0, 1].map { |share| held.call(holdout("spring", share)).size }).to eq([0, 20_000])
    fifty = described_class::Holdout.number("spring", 50, everybody)
    expect(held.call(fifty).size).to eq(50)
    expect(held.call(fifty)).to all(satisfy { |id| tenth.include?(id) })
    expect([0, 20_000, 30_000].map { |number| held.call(described_class::Holdout.number("spring", number, everybody)).size }).to eq([0, 20_000, 20_000])
    expect { holdout("spring", 1.1) }.to raise_error(described_class::Invalid, /between 0% and 100%/)
  end

  it "tells who entered and who left" do
    changes = described_class::Changes.between(ids(1, 2, 5), ids(2, 3, 4))
    expect(changes.rows).to eq([[1, "left"], [3, "entered"], [4, "entered"], [5, "left"]])
    expect(described_class::Changes.between(ids, ids).height).to eq(0)
  end

  it "compares addresses in one form" do
    expect(described_class::Address.normal("email", " A.B@Example.ORG ")).to eq("a.b@example.org")
    expect(described_class::Address.normal("phone", " +351 (900) 000-001")).to eq("+351900000001")
    expect(described_class::Address.digest("email", "Test@Example.com")).to eq("973dfe463ec85785f5f95af5ba3906eedb2d931c24e69824a89ea65dba4e813b")
  end

  it "takes an address without the spaces around it, and of two since the same instant the first by its characters" do
    at = ->(day) { Time.utc(2026, 5, day, 10) }
    addresses = ->(*rows) { { events: [], attributes: [], reach: rows.map { |day, address| { channel: "email", at: at[day], address: address } } } }
    people = { 1 => addresses[[1, " P14@Mail.Example "]], 2 => addresses[[1, "b@mail.example"], [1, "a@mail.example"], [1, "nonsense"]], 3 => addresses[[1, "a@mail.example"], [2, "z@mail.example"]] }
    with_ledger(Population.new(people, event_types: {})) do |ledger|
      evaluator = Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, 10))
      rows = Estrel::Exports::Waterfall.new(evaluator, ids(1, 2, 3), Estrel::Exports::Suppression.new(channel: "email")).frame.select(%w[step address]).rows
      expect(rows).to eq([["exported", "P14@Mail.Example"], ["exported", "a@mail.example"], ["exported", "z@mail.example"]])
      expect(Estrel::Reach.new(ledger, Date.new(2026, 5, 10)).mask("email").to_a).to eq([true] * 3)
    end
  end

  context "with two people" do
    def evaluator
      at = ->(day, hour = 10) { Time.utc(2026, 5, day, hour) }
      people = { 1 => { events: [{ type: "ride_ended", at: at[1], km: 4.0 }, { type: "ride_ended", at: at[9], km: 2.5 }], attributes: [{ name: "plan", at: at[1], value: "=monthly" }],
                        reach: [{ channel: "email", at: at[1], address: "A@b.example" }] },
                 2 => { events: [], attributes: [{ name: "plan", at: at[2], value: nil }], reach: [] } }
      with_ledger(Population.new(people, event_types: { "ride_ended" => { "km" => "number" } }, attributes: { "plan" => "text" })) do |ledger|
        rule_set = Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 3, active_within: 5, churned_after: 20)
        yield Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, 10), rule_set: rule_set)
      end
    end

    def frame(columns, people, **options) = evaluator { |asked| Estrel::Exports::Columns.new(asked, columns, channel: "email", **options).frame(people) }

    it "fills the columns of an export, each under its own name, for each person in the order given" do
      columns = [column("state"), column("last_day"), column("attribute:plan"), column("take" => "address", "as" => "to"), column("take" => "count", "event" => "ride_ended", "days" => 5),
                 column("take" => "sum", "event" => "ride_ended", "property" => "km"), column("take" => "last", "event" => "ride_ended", "as" => "last ride")]
      people = Polars::DataFrame.new({ "profile_id" => [2, 1], "address" => [nil, "A@b.example"] })
      filled = frame(columns, people)
      expect(filled.columns).to eq(["state", "last_day", "plan", "to", "count_ride_ended_5_days", "sum_km_ride_ended", "last ride"])
      expect(filled.rows).to eq([["never_active", nil, nil, nil, nil, nil, nil],
                                 ["active", "2026-05-09", "=monthly", "A@b.example", 1, 6.5, "2026-05-09T10:00:00.000000Z"]])
      digests = frame([column("address")], people, digests: true)
      expect(digests["address"].to_a).to eq([nil, OpenSSL::Digest.hexdigest("SHA256", "a@b.example")])
    end

    it "tells chances by the model there is, of whom they are about only, and says by which" do
      weights = Estrel::Propensity::Features::NAMES.keys.to_h { |name| [name, 0.0] }
      model = Estrel::Propensity::Model.new("lapse", 30, Date.new(2026, 4, 10), nil, intercept: Math.log(0.25 / 0.75), weights: weights)
      people = Polars::DataFrame.new({ "profile_id" => [2, 1], "address" => [nil, nil] })
      asked = []
      evaluator do |found|
        columns = Estrel::Exports::Columns.new(found, [column("take" => "chance", "of" => "lapse", "days" => 30)], chances: ->(*named) { (asked << named) && model })
        expect(columns.frame(people).to_h(as_series: false)).to eq({ "chance_to_lapse_within_30_days" => [nil, 0.25] })
        expect(columns.models).to eq([model])
      end
      expect(asked).to eq([["lapse", 30]])
    end

    it "refuses columns that make no sense, and says what to do" do
      { [] => /at least one/, ["attribute:plam"] => /no column "attribute:plam"; did you mean "attribute:plan"/, %w[state state] => /two columns are called "state"/,
        ["address"] => /choose email or SMS as the channel to export addresses/, [{ "take" => "sum", "event" => "ride_ended" }] => /choose the property to sum/, [{ "take" => "sum", "event" => "ride_ended", "property" => "dock" }] => /no property "dock" of ride_ended that is a number/,
        [{ "take" => "last", "event" => "rode" }] => /no event type "rode"/, [{ "take" => "count", "event" => "ride_ended", "days" => 0 }] => /whole number/, [7] => /a column must say/,
        [{ "take" => "chance", "of" => "stay", "days" => 30 }] => /come_back or lapse/, [{ "take" => "chance", "of" => "lapse", "days" => 6 }] => /probability: enter 7 to 180 days/,
        [{ "take" => "chance", "of" => "lapse", "days" => 30 }] => /no column "chance"/ }.each do |given, message|
        expect { evaluator { |asked| Estrel::Exports::Columns.new(asked, given.map { |json| column(json) }) } }.to raise_error(described_class::Invalid, message)
      end
    end
  end
end
