# frozen_string_literal: true

RSpec.describe Estrel::Campaigns do
  let(:types) { { "ride_ended" => {}, **%w[received bounced opened clicked unsubscribed].to_h { |kind| ["message_#{kind}", { "campaign" => "text", "channel" => "text" }] } } }
  # Letters on the 2nd, 9th, 16th and 23rd; active within 3 days, churned after 10.
  let(:people) do
    sent = [2, 9, 16, 23].map { |day| letter("received", day) }
    { 1 => [*sent, letter("opened", 2, 11), letter("clicked", 9, 12), letter("opened", 9, 11), letter("opened", 24)],
      2 => [*sent, letter("opened", 2, 10), ride(1), ride(9)],
      3 => [letter("received", 23), letter("unsubscribed", 23, 12), ride(20), ride(21)],
      4 => [letter("bounced", 23), letter("received", 16, campaign: "news", channel: "sms"), letter("clicked", 16, 11, campaign: "news", channel: nil), letter("opened", 17), ride(29)] }
  end
  let(:rule_set) { Estrel::Lifecycle::RuleSet.new(activity: ["ride_ended"], new_for: 1, active_within: 3, churned_after: 10) }
  let(:population) { Population.new(people.transform_values { |events| { events: events, attributes: [] } }, event_types: types) }

  def at(day, hour = 10, minute = 0) = Time.utc(2026, 5, day, hour, minute)

  def ride(day) = { type: "ride_ended", at: at(day) }

  def letter(kind, day, hour = 10, campaign: "letter", channel: "email") = { type: "message_#{kind}", at: at(day, hour), campaign: campaign, channel: channel }

  def asked(day = 30)
    with_ledger(population) { |ledger| yield Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, day), rule_set: rule_set) }
  end

  def members(evaluator, **condition)
    definition = Estrel::Audience::Definition.parse({ "campaign" => JSON.parse(JSON.generate(condition)) }, catalogue: population.catalogue)
    evaluator.members(definition).to_a
  end

  it "gives what came of a message to the latest of the same campaign before it" do
    asked do |evaluator|
      rows = Estrel::Campaigns::Messages.new(evaluator).all.rows(named: true)
      first = rows.select { |row| row["profile_id"] == 1 }
      expect(first.map { |row| Estrel::Campaigns::Messages::WHAT_CAME.select { |kind| row["#{kind}_at"] } }).to eq([["opened"], %w[opened clicked], [], ["opened"]])
      # At the very instant; and an opening of a letter never received belongs to nothing.
      expect(rows.select { |row| row["profile_id"] == 2 }.map { |row| row["responded"] }).to eq([true, false, false, false])
      expect(rows.select { |row| row["profile_id"] == 4 }.map { |row| row.values_at("campaign", "channel", "responded") }).to eq([["news", "sms", true]])
    end
    asked(23) { |evaluator| expect(Estrel::Campaigns::Messages.new(evaluator).all.filter(Polars.col("profile_id") == 1)["responded"].to_a).to eq([true, true, false, false]) }
  end

  it "gives openings without a campaign to messages without one, which have a condition of their own" do
    people[5] = [letter("received", 10, campaign: nil, channel: nil), letter("opened", 11, campaign: nil, channel: nil), letter("received", 28, campaign: nil)]
    asked do |evaluator|
      expect(Estrel::Campaigns::Messages.new(evaluator).all.filter(Polars.col("profile_id") == 5)["responded"].to_a).to eq([true, false])
      expect(members(evaluator, was: "sent", without_name: true)).to eq([5])
      expect(members(evaluator, was: "sent", without_name: true, channel: "email")).to eq([5])
      expect(members(evaluator, was: "opened", without_name: true, channel: "email")).to eq([])
      expect(members(evaluator, was: "opened", without_channel: true)).to eq([5])
      expect(members(evaluator, was: "ignored", without_name: true)).to eq([]) # the one of the 28th may still be opened
    end
    asked(31) { |evaluator| expect(members(evaluator, was: "ignored", without_name: true)).to eq([5]) }
    with_ledger(population) do |ledger|
      answer = analysis("campaign-results", {}, ledger, as_of: Date.new(2026, 5, 30), rules: rule_set).over
      expect(answer.finding).to start_with("Latest campaign: “letter” (email)")
      nameless = answer.tables.first.rows.find { |row| row.values.first(2) == ["no campaign", nil] }
      definition = Estrel::Audience::Definition.parse(nameless.cells["messages"], catalogue: ledger.catalogue)
      expect(Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, 30)).members(definition).to_a).to eq([5])
    end
  end

  it "counts a message as ignored from one day on, in conditions, results and streaks alike" do
    [25, 26].each do |day|
      asked(day) do |evaluator|
        ignored = members(evaluator, was: "ignored", window: { from: "2026-05-23" })
        counts = Estrel::Campaigns::Results.new(evaluator).counts[:campaigns].fetch(%w[letter email])[:counts]
        young = Estrel::Campaigns::Messages.new(evaluator).all.filter(Polars.col("day") == Estrel::Calendar.number(Date.new(2026, 5, 23)))["young"].to_a
        expect([ignored, counts["settled"] - counts["responded"], young]).to eq(day == 25 ? [[], 3, [false, true, true]] : [[2, 3], 5, [false, false, false]])
      end
    end
  end

  it "counts response streaks: current, longest and mean" do
    asked do |evaluator|
      found = Estrel::Campaigns::Streaks.of(Estrel::Campaigns::Messages.new(evaluator).all)
      expect(found.select(%w[profile_id messages responded current longest mean]).rows).to eq([[1, 4, 3, 1, 2, 1.5], [2, 4, 1, 0, 1, 1.0], [3, 1, 0, 0, 0, 0.0], [4, 1, 1, 1, 1, 1.0]])
      expect(members(evaluator, streak: { of: "longest", at_least: 2 })).to eq([1])
      expect(members(evaluator, streak: { of: "mean", at_least: 1, less_than: 1.5 })).to eq([2, 4])
      expect(members(evaluator, share: { at_least: 0.25, less_than: 0.75 })).to eq([2])
      expect(members(evaluator, share: { at_least: 0.75 }, channel: "email")).to eq([1])
    end
  end

  # On the 10th nobody can say yet that 2 will not respond to the letter of the 9th; on the 24th 3 has had nothing else.
  it "does not end a streak by a message that is too young to have been answered" do
    asked(10) { |evaluator| expect(members(evaluator, streak: { of: "current", at_least: 1 })).to eq([1, 2]) }
    asked(12) { |evaluator| expect(members(evaluator, streak: { of: "current", at_least: 1 })).to eq([1]) }
    asked(24) do |evaluator|
      found = Estrel::Campaigns::Streaks.of(Estrel::Campaigns::Messages.new(evaluator).all)
      expect(found.select(%w[profile_id messages responded current share]).rows).to eq([[1, 4, 3, 1, 0.75], [2, 4, 1, 0, 1 / 3.0], [3, 1, 0, 0, 0.0], [4, 1, 1, 1, 1.0]])
    end
  end

  it "knows who ignored the last ones, and asks nobody who had fewer" do
    asked do |evaluator|
      expect(members(evaluator, was: "ignored", last: 3)).to eq([2])
      expect(members(evaluator, was: "ignored", last: 4)).to eq([])
      expect(members(evaluator, was: "ignored")).to eq([1, 2, 3])
      expect(members(evaluator, was: "opened", last: 1)).to eq([1])
      expect(members(evaluator, was: "sent", name: "news")).to eq([4])
      expect(members(evaluator, was: "unsubscribed", window: { last_days: 8 })).to eq([3])
      expect(members(evaluator, was: "unsubscribed", window: { last_days: 7 })).to eq([])
    end
  end

  it "tells who were reactivated, by the state of the day before" do
    asked do |evaluator|
      # Person 2 last rode on the 1st: dormant on the 8th, back on the 9th itself. Person 4 rode for the first time on the 29th: never active before.
      expect(members(evaluator, was: "reactivated", within_days: 1)).to eq([2])
      expect(members(evaluator, was: "reactivated", within_days: 8, window: { to: "2026-05-02" })).to eq([])
      # On the 2nd person 2 was active still; a letter that finds somebody active brings nobody back.
      expect(members(evaluator, was: "sent", from: ["dormant"], window: { to: "2026-05-10" })).to eq([2])
      expect(members(evaluator, was: "sent", from: %w[new active])).to eq([2, 3])
    end
  end

  it "sums up campaigns by channel and state, and follows them only as far as is known" do
    asked do |evaluator|
      told = ->(address, question = {}) { analysis(address, question, evaluator.ledger, as_of: evaluator.as_of, rules: rule_set).over }
      results = told.call("campaign-results")
      letters = results.picture[:campaigns].find { |row| row["campaign"] == "letter" }
      expect(letters).to include("channel" => "email", "messages" => 9, "people" => 3, "opened" => 4, "clicked" => 1, "responded" => 4, "unsubscribed" => 1, "bounced" => 1,
                                 "settled" => 9, "inactive" => 2, "back" => 1, "first_day" => Date.new(2026, 5, 2), "last_day" => Date.new(2026, 5, 23), "complete" => false)
      expect(letters["states"].to_h { |row| [row["state"], row["messages"]] }).to eq("never_active" => 4, "new" => 1, "active" => 1, "dormant" => 2, "churned" => 1)
      curve = told.call("campaign-days", { campaign: "letter", channel: "email" }).picture[:days]
      expect(curve[0]).to include("messages" => 9, "opened" => 3, "clicked" => 1, "inactive" => 3, "back" => 1)
      expect(curve[1]).to include("messages" => 9, "opened" => 4)
      expect(curve[8]).to include("messages" => 6, "opened" => 3)
      expect(results.finding).to include("Latest campaign: “letter” (email), response rate 44% (9 messages).")
    end
    # Three days after the letters of the 16th are over, those of the 23rd are not, nor are two weeks after any but those of the 2nd and 9th.
    asked(25) do |evaluator|
      results = analysis("campaign-results", {}, evaluator.ledger, as_of: evaluator.as_of, rules: rule_set).over
      letters = results.picture[:campaigns].find { |row| row["campaign"] == "letter" }
      expect(letters).to include("messages" => 9, "settled" => 6, "opened" => 3, "clicked" => 1, "responded" => 3, "unsubscribed" => 0, "inactive" => 1, "back" => 1)
      expect(results.finding).to include("with 50% of 6 messages responded to; 3 more are less than 3 days old.")
      cells = results.tables.first.rows.find { |row| row.values.first == "letter" }.cells
      found = cells.transform_values { |condition| members(evaluator, **condition["campaign"].transform_keys(&:to_sym)) }
      expect(found).to eq("messages" => [1, 2, 3], "settled" => [1, 2], "opened" => [1, 2], "clicked" => [1], "unsubscribed" => [], "ignored" => [1, 2], "back" => [2])
    end
    asked(2) { |evaluator| expect(analysis("campaign-results", {}, evaluator.ledger, as_of: evaluator.as_of, rules: rule_set).over.finding).to eq("“letter” by e-mail was the last; its messages are less than 3 days old.") }
  end

  it "tells campaigns by the streaks of response to them, and people by how much they respond" do
    asked do |evaluator|
      found = analysis("response-streaks", {}, evaluator.ledger, as_of: evaluator.as_of, rules: rule_set).over.picture
      expect(found[:points].map { |row| row.values_at(:campaign, :messages, :people, :mean) }).to contain_exactly(["letter", 9, 3, (1.5 + 1 + 0) / 3], ["news", 1, 1, 1.0])
      expect(found[:campaigns]).to eq(%w[news letter])
      expect(found[:bands].map { |band| band[:people] }).to eq([1, 1, 0, 1, 0, 1])
      expect(found[:cells][1]).to eq([[0, 0], [4, 3]])
      one = Estrel::Campaigns::Responses.new(evaluator.among(Polars::Series.new("profile_id", [4]))).series
      expect(one.map { |row| row.values_at("campaign", "messages", "responded", "current", "longest", "mean") }).to eq([[nil, 1, 1, 1, 1, 1.0], ["news", 1, 1, 1, 1, 1.0]])
    end
  end

  it "says conditions in words, and what is wrong with them" do
    say = ->(condition) { Estrel::Audience::Sentence.new(Estrel::Audience::Definition.parse({ "campaign" => condition }, catalogue: population.catalogue), population.catalogue).to_s }
    expect(say.call({ "was" => "ignored", "last" => 5, "channel" => "email" })).to include("who ignored the last 5 messages by email")
    expect(say.call({ "was" => "reactivated", "name" => "letter", "from" => ["churned"] })).to include("who were reactivated within 14 days of a message of “letter” received while churned")
    expect(say.call({ "streak" => { "of" => "current", "at_least" => 3 } })).to include("whose current response streak to messages is at least 3")
    expect(say.call({ "share" => { "at_least" => 0.2, "less_than" => 0.4 }, "name" => "letter" })).to include("who responded to at least 20% and less than 40% of messages of “letter”")
    [{}, { "was" => "opened", "share" => { "at_least" => 0.1 } }, { "was" => "sent", "last" => 2 }, { "was" => "opened", "within_days" => 3 }].each do |condition|
      expect { say.call(condition) }.to raise_error(Estrel::Audience::Invalid), condition.to_s
    end
    expect { Estrel::Audience::Definition.parse({ "campaign" => { "was" => "sent" } }, catalogue: Population.new({}).catalogue) }.to raise_error(Estrel::Audience::Invalid)
  end
end
