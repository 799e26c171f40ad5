# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Workers::PropertyPacking do
  include CollectorHelper

  let(:packing) { described_class.new(10) }

  def random_properties(random, serial)
    values = { "n" => random.rand(1000) / 4.0, "text" => "ü \" \\ \t 'quoted' #{random.rand(9)}", "true" => random.rand < 0.5, "deep" => { "a" => [1, nil] } }
    values.to_a.sample(random.rand(values.size + 1), random: random).to_h.merge(serial == 7 ? { "n" => "not a number" } : {})
  end

  def lines(serials, random)
    serials.map do |serial|
      time = (Time.utc(2026, 3, 1) + random.rand(86_400 * 60)).iso8601
      event("e#{serial}", type: %w[ride pass].sample(random: random), subject: "customer:#{random.rand(6)}", time: time, data: random_properties(random, serial))
    end
  end

  def pack(before = Time.now.utc + 1)
    done = 0
    while (count = packing.step(before)).positive? do done += count end
    done
  end

  def built(rebuild: true)
    EstrelServer::LedgerBuilding::Builder.new.refresh(rebuild: rebuild)
    generation = EstrelServer.ledger.current
    [*generation.catalogue.event_types.keys.map { |type| generation.events(type).rows }, generation.facts["set_aside"]]
  end

  def rows = EstrelServer::Record.connection.select_rows("SELECT * FROM events ORDER BY id")

  def block_of(key) = EstrelServer::PropertyBlock.texts([EstrelServer::Event.find_by!(event_key: key).id])

  it "changes no answer, and can be undone" do
    random = Random.new(seed = Checks.seed)
    import(lines(1..64, random).join("\n"))
    whole = [built, rows]
    expect([pack, EstrelServer::PropertyBlock.count]).to eq([60, 6]), "seed #{seed}"
    expect(EstrelServer::Event.order(:id).pluck(Arel.sql("properties = 'null'"))).to eq(([1] * 60) + ([0] * 4))
    expect([built, built(rebuild: false)]).to eq([whole.first] * 2), "seed #{seed}"
    expect(packing.undo).to eq(10) until EstrelServer::PropertyBlock.none?
    expect([packing.undo, built, rows]).to eq([0, *whole]), "seed #{seed}"
  end

  it "leaves alone what came lately, and packs what has become old in order" do
    import(lines(1..35, Random.new(1)).join("\n"))
    EstrelServer::Event.order(:id).limit(25).update_all(received_at: Time.utc(2026, 1, 1))
    expect([pack(Time.utc(2026, 1, 1)), pack(Time.utc(2026, 2, 1)), pack(Time.utc(2026, 2, 1)), pack]).to eq([0, 20, 0, 10])
    expect(EstrelServer::PropertyBlock.order(:id).flat_map { |block| block.texts.keys }).to eq(EstrelServer::Event.order(:id).limit(30).ids)
  end

  it "tells the same event that comes again from another one with its id, however they come" do
    sent = lines(1..10, Random.new(2))
    import(sent.join("\n"))
    pack
    other = sent.map { |line| JSON.generate(JSON.parse(line).merge("data" => { "n" => -1 })) }
    [{}, { "ignore" => ["nothing"] }].each do |mapping| # read together, and one by one
      again = import([*sent, *other].join("\n"), mapping: mapping)
      expect([again.stored, again.already_known, again.rejected]).to eq([0, 10, 10])
    end
    key = EstrelServer::SendingKey.issue(EstrelServer::Source.find_by!(name: "app")).last
    forget_directory
    expect(outcomes(send_batch([sent, other].map { |texts| JSON.parse(texts.first) }, key: key))).to eq(%w[known refused])
    expect(EstrelServer::Event.count).to eq(10)
  end

  it "keeps nothing of somebody who is erased, nor of events that are kept no longer" do
    import(%w[gone stays gone old].each_with_index.map { |id, index| event("#{id}#{index}", subject: "customer:#{id}", time: id == "old" ? "2020-01-01T00:00:00Z" : "2026-05-01T00:00:00Z", data: { "secret" => id }) }.join("\n"))
    described_class.new(2).then { |two| 2.times { two.step(Time.now.utc + 1) } }
    expect(block_of("gone0").values).to eq(['{"secret":"gone"}'])
    EstrelServer::People::Eraser.new(EstrelServer::Identifier.find_by!(value: "gone").profile, "asked").erase
    EstrelServer::Workspace.current.update!(kept_months: 60)
    expect(EstrelServer::Workers::EventRetention.new.carry_out).to eq(1)
    expect(EstrelServer::PropertyBlock.all.flat_map { |block| block.texts.values }).to eq(['{"secret":"stays"}'])
    built
    expect(EstrelServer.ledger.current.events("ride_ended")["property:secret"].to_a).to eq(["stays"])
  end

  it "makes several blocks of what is too large for one, and no ledger without them" do
    stub_const("#{described_class}::LARGEST", EstrelServer::PropertyBlock.pack([[1, "{}"]]).bytesize + 60)
    import(lines(1..10, Random.new(3)).join("\n"))
    whole = built
    pack
    expect([EstrelServer::PropertyBlock.count, built]).to match([be > 2, whole])
    [EstrelServer::PropertyBlock.last, EstrelServer::PropertyBlock].zip(%i[destroy! destroy_all]).each do |gone, how|
      gone.public_send(how)
      expect { built }.to raise_error(EstrelServer::Error, /the properties of \d+ events? are missing/)
    end
    expect(EstrelServer.ledger.current.facts["event_count"]).to eq(10)
  end

  it "goes on by itself where it is to, block by block" do
    import(lines(1..25, Random.new(4)).join("\n"))
    stub_const("#{described_class}::EVENTS", 10)
    EstrelServer::Event.update_all(received_at: Time.now.utc - (86_400 * 3))
    following = ->(days) { EstrelServer::Workers::LedgerFollower.new(EstrelServer::LedgerBuilding::Builder.new, EstrelServer::Settings.from({ "ESTREL_VAR" => EstrelServer.settings.var, "ESTREL_PACK_AFTER_DAYS" => days.to_s })) }
    counts = [0, 4, 2].map { |days| following.call(days).then { |follower| Array.new(3) { follower.step && EstrelServer::PropertyBlock.count } } }
    expect(counts).to eq([[0, 0, 0], [0, 0, 0], [1, 2, 2]])
  end
end
