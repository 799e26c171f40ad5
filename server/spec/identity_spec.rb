# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Collecting::Linker do
  include CollectorHelper

  let(:key) { key_for("app") }

  def collect(*messages) = outcomes(send_batch(messages, key: key))

  def ids(*identifiers) = { identifiers: identifiers.sort }

  def person(value) = EstrelServer::Identifier.find_by!(value: value).profile

  def ledger_rows
    generation = EstrelServer.ledger.current
    generation.catalogue.event_types.keys.to_h { |type| [type, generation.events(type).rows.sort] }
              .merge("profiles" => generation.profiles.rows)
  end

  it "turns a visitor into the customer it is linked to, whether the customer was known or not" do
    collect(cloud_event("1", subject: "visitor:v1"), link("2", "visitor:v1", "customer:1"), cloud_event("3", subject: "visitor:v1"))
    collect(cloud_event("4", subject: "customer:2"), cloud_event("5", subject: "visitor:v2"), link("6", "customer:2", "visitor:v2"))
    collect(link("7", "visitor:v3", "customer:3"))
    expect(histories).to match([include(ids("customer:1", "visitor:v1").merge(events: %w[1 3])),
                                include(ids("customer:2", "visitor:v2").merge(events: %w[4 5])), include(ids("customer:3", "visitor:v3"))])
    expect(EstrelServer::Link.pluck(:outcome)).to eq(%w[attached merged made])
    merge = EstrelServer::Merge.first
    expect(merge.before["from"]).to include("identifiers" => [include("value" => "v2")], "events" => [include("type" => "ride_ended", "count" => 1)])
    expect(merge.before["into"]["identifiers"].first).to include("value" => "2")
    expect(person("v2").id).to eq(merge.into_profile_id)
  end

  it "keeps every value an attribute had through a merge; the newest wins, and the customer's where both are equally new" do
    collect(attributes("1", "customer:1", time: "2026-05-02T00:00:00Z", plan: "monthly", city: "A"),
            attributes("2", "visitor:v", time: "2026-05-03T00:00:00Z", plan: "student"),
            attributes("3", "visitor:v", time: "2026-05-02T00:00:00Z", city: "B"), link("4", "visitor:v", "customer:1"))
    expect(histories.first[:attributes].map(&:last)).to eq(%w[A monthly student])
    expect(EstrelServer::Merge.first.before["dropped"]).to match([include("attribute" => "city", "value" => "B")])
    refresh
    expect(EstrelServer.ledger.current.profiles.select(%w[attribute:city attribute:plan]).rows).to eq([%w[A student]])
  end

  it "leaves a shared device's past where it was and sends only what follows to the new customer" do
    collect(cloud_event("1", subject: "visitor:v"), link("2", "visitor:v", "customer:1"), cloud_event("3", subject: "visitor:v"),
            link("4", "visitor:v", "customer:2"), cloud_event("5", subject: "visitor:v"))
    expect(histories).to match([include(ids("customer:1").merge(events: %w[1 3])), include(ids("customer:2", "visitor:v").merge(events: %w[5]))])
    expect(collect(cloud_event("3", subject: "visitor:v"), link("2", "visitor:v", "customer:1"))).to eq(%w[known known])
    expect(EstrelServer::IdentifierMove.pluck(:from_profile_id, :to_profile_id)).to eq([[person("1").id, person("2").id]])
    expect(import(JSON.generate(cloud_event("3", subject: "visitor:v"))).already_known).to eq(1)
  end

  it "never merges two customers, closes rings, and does nothing twice" do
    expect(collect(cloud_event("1"), cloud_event("2", subject: "customer:2"), link("3", "customer:1", "customer:2"))).to eq(%w[stored stored refused])
    expect(collect(link("4", "email:a@b.example", "customer:1"), link("5", "email:a@b.example", "customer:2"))).to eq(%w[stored refused])
    ring = [link("6", "visitor:a", "email:x@b.example"), link("7", "email:x@b.example", "visitor:b"), link("8", "visitor:b", "visitor:a")]
    2.times { collect(*ring) }
    expect(histories.map { |row| row[:identifiers] }).to eq([%w[customer:1 email:a@b.example], %w[customer:2], %w[email:x@b.example visitor:a visitor:b]])
    expect(EstrelServer::Link.pluck(:outcome)).to eq(%w[refused attached refused made attached same])
  end

  it "keeps the consent of whoever had a device before its present owner is erased, without the device's identifier" do
    collect(link("1", "visitor:v", "customer:1"), cloud_event("2", subject: "visitor:v", type: "estrel.consent", data: { "channel" => "push", "given" => true }),
            link("3", "visitor:v", "customer:2"))
    EstrelServer::People::Eraser.new(person("2"), "asked for").erase
    expect(EstrelServer::Consent.pluck(:profile_id)).to eq([person("1").id])
    expect(EstrelServer::Receipt.pluck(:subject)).to eq([""])
  end

  it "refuses links of an erased identifier, however often one comes, and carries out those beside it" do
    collect(cloud_event("1", subject: "email:gone@b.example"))
    EstrelServer::People::Eraser.new(person("gone@b.example"), "asked for").erase
    again = link("2", "email:gone@b.example", "customer:1")
    expect(collect(again, link("3", "visitor:v", "customer:1"), again, link("4", "visitor:v", "customer:1"), link("3", "visitor:v", "customer:1")))
      .to eq(%w[refused stored refused stored known])
    expect(EstrelServer::Link.pluck(:outcome)).to eq(%w[made same])
  end

  it "finds when an identifier was named first, whatever is stored before" do
    collect(attributes("1", "customer:1", plan: "a"), cloud_event("2", subject: "email:x@b.example", time: "2026-05-02T00:00:00Z"),
            attributes("3", "email:x@b.example", time: "2026-05-09T00:00:00Z", plan: "b"), cloud_event("4", subject: "customer:1"))
    expect(EstrelServer::Identifier.find_by!(value: "x@b.example").since).to eq(Time.utc(2026, 5, 2))
    expect(collect(attributes("5", "customer:1", city: "a"), cloud_event("6", subject: "customer:1"), attributes("6", "customer:1", plan: "c"))).to eq(%w[stored stored refused])
  end

  it "makes the ledger follow merges by refreshing as by building anew" do
    collect(*(1..30).map { |index| cloud_event("e#{index}", subject: "visitor:#{index % 6}", type: %w[ride pass][index % 2], time: "2026-05-#{format("%02d", 31 - index)}T00:00:00Z") })
    refresh
    collect(link("l1", "visitor:0", "visitor:1"), link("l2", "visitor:1", "email:a@b.example"), link("l3", "email:a@b.example", "customer:9"),
            cloud_event("e31", subject: "visitor:0", type: "ride"), link("l4", "visitor:5", "customer:8"))
    refresh
    refreshed = ledger_rows
    expect(refreshed["profiles"].size).to eq(5)
    EstrelServer::LedgerBuilding::Builder.new.refresh(rebuild: true)
    expect(ledger_rows).to eq(refreshed)
  end

  it "carries out many links in a row as it would each by itself" do
    random = Random.new(Checks.seed)
    identifiers = [*(1..4).map { |id| "customer:#{id}" }, *(1..5).map { |id| "email:p#{id}@b.example" }, *(1..8).map { |id| "visitor:#{id}" }]
    4.times do
      EstrelServer::Workspace.clear
      some = identifiers.sample(9, random: random).each_with_index.flat_map do |one, index|
        [cloud_event("e#{index}", subject: one), attributes("a#{index}", one, plan: index)]
      end
      links = Array.new(40) { |index| link("l#{index}", *identifiers.sample(2, random: random)) }
      more = identifiers.each_with_index.map { |one, index| cloud_event("f#{index}", subject: one) }
      collect(*some)
      collect(*links, *more)
      expect(histories).to match_array(IdentityReference.histories([*some, *links, *more])), "seed #{random.seed}"
      merges = EstrelServer::Merge.order(:id).to_a
      expect(merges.map { |merge| merge.before["from"]["profile"] }).to eq(merges.map(&:from_profile_id))
      expect(EstrelServer::Link.where.not(outcome: "refused").where(profile_id: nil)).to be_empty
    end
  end

  # Random messages about a few identifiers, with an occurred-at of their own each.
  def messages(random, identifiers)
    Array.new(10 + random.rand(12)) do |index|
      time = (Time.utc(2026, 5, 1) + (index * 3600)).iso8601
      one, other = identifiers.sample(2, random: random)
      [cloud_event("e#{index}", subject: one, time: time), link("l#{index}", one, other, time: time),
       attributes("a#{index}", one, time: time, plan: index)][random.rand(3)]
    end
  end

  # Identifiers that lead to each other along links.
  def circles(messages)
    links = messages.select { |message| message["type"] == "estrel.link" }
                    .map { |message| [message["subject"], message["data"]["same_as"]] }
    everyone = messages.map { |message| [message["subject"]] }.uniq
    (everyone + links).reduce([]) do |groups, pair|
      met, rest = groups.partition { |group| group.intersect?(pair) }
      [[*met.flatten, *pair].uniq, *rest]
    end
  end

  it "does what the rules say for any messages in any order; and the order does not matter to anybody whose identifiers " \
     "lead, along all links, to at most one customer" do
    random = Random.new(Checks.seed)
    identifiers = %w[customer:1 customer:2 visitor:a visitor:b visitor:c email:x@b.example email:y@b.example]
    8.times do
      sent = messages(random, identifiers)
      alone = circles(sent).select { |circle| circle.grep(/\Acustomer:/).size < 2 }.flatten
      orders = [sent, sent.shuffle(random: random), sent.shuffle(random: random)]
      outcomes = orders.map do |order|
        EstrelServer::Workspace.clear
        collect(*order)
        expect(histories).to match_array(IdentityReference.histories(order)), "seed #{random.seed}"
        histories.select { |row| row[:identifiers].intersect?(alone) }.sort_by(&:to_s)
      end
      expect(outcomes.uniq.size).to eq(1), "seed #{random.seed}"
    end
  end

  # The same mentions of an address, in whatever order they come.
  def mentions
    [event("1", type: "estrel.attributes", subject: "customer:1", time: "2026-03-01T00:00:00Z", receivedat: "2026-03-02T00:00:00Z", data: { "plan" => "a" }),
     event("2", type: "estrel.link", subject: "customer:1", time: "2026-03-05T00:00:00Z", receivedat: "2026-03-05T00:00:00Z", data: { "same_as" => "email:x@b.example" }),
     event("3", subject: "email:x@b.example", time: "2026-02-01T00:00:00Z", receivedat: "2026-04-01T00:00:00Z"),
     event("4", type: "estrel.consent", subject: "email:x@b.example", time: "2026-01-15T00:00:00Z", receivedat: "2026-02-10T00:00:00Z", data: { "channel" => "email", "given" => true }),
     event("5", subject: "email:x@b.example", time: "2026-05-01T00:00:00Z", receivedat: "2026-05-01T00:00:00Z")]
  end

  it "knows an address since its earliest mention, and from its earliest receipt on, in whatever order these come" do
    [mentions, mentions.reverse, mentions.rotate(2)].each_with_index do |lines, index|
      index.even? ? import(lines.join("\n")) : lines.each { |line| import(line) }
      row = EstrelServer::Identifier.find_by!(value: "x@b.example")
      expect([row.since, row.created_at]).to eq([Time.utc(2026, 1, 15), Time.utc(2026, 2, 10)]), "order #{index}"
      EstrelServer::Workspace.clear
    end
  end

  it "moves the times of addresses that the ledger knows already, by profile files too" do
    import("customer,email,time\n1,a@b.example,2026-05-09T00:00:00Z\n", kind: "profiles", name: "people.csv")
    refresh
    import("customer,email,time\n1,a@b.example,2026-05-20T00:00:00Z\n1,a@b.example,2026-05-02T00:00:00Z\n", kind: "profiles", name: "people.csv")
    refresh
    reach = EstrelServer.ledger.current.reach.filter(Polars.col("address") == "a@b.example")
    expect(reach["occurred_at"].to_a).to eq([Time.utc(2026, 5, 2).to_i * 1_000_000])
    seen = EstrelServer.ledger.current.profiles["first_seen_day"].to_a
    expect(seen).to eq([Estrel::Calendar.number(Date.new(2026, 5, 2))])
  end

  it "first sees people of whom only an identifier or a consent is known at the time of that, not of its import" do
    import([event("1"), event("2", type: "estrel.consent", subject: "visitor:v", time: "2026-04-02T00:00:00Z", receivedat: "2026-04-03T00:00:00Z", data: { "channel" => "push", "given" => true }),
            event("3", type: "estrel.link", subject: "customer:7", time: "2026-04-05T00:00:00Z", data: { "same_as" => "customer_card:9" }),
            event("4", type: "estrel.link", subject: "customer:8", time: "2026-04-05T00:00:00Z", data: { "same_as" => "email:c@b.example" })].join("\n"))
    refresh
    ledger = EstrelServer.ledger.current
    days = EstrelServer::Profile.order(:id).pluck(:id).zip(ledger.profiles["first_seen_day"].to_a.map { |day| Estrel::Calendar.date(day) }).to_h
    expect(days.values.sort).to eq([Date.new(2026, 4, 2), Date.new(2026, 4, 5), Date.new(2026, 5, 3)])
    known = ledger.received_by(Date.new(2026, 4, 3))
    expect(Estrel::Audience::Evaluator.new(known, as_of: Date.new(2026, 4, 3)).base).to eq(1)
    expect(Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 4, 3)).base).to eq(1)
  end
end
