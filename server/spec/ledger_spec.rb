# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::LedgerBuilding::Builder do
  include CollectorHelper
  include LedgerContents

  let(:ledger) { EstrelServer.ledger }
  let(:key) { key_for("app") }

  def history(first, last)
    (first..last).map do |index|
      value = [index / 2.0, "text #{index}", true, nil][index % 4]
      event("e#{index}", type: %w[ride pass][index % 2], subject: "customer:#{index % 7}",
                         time: (Time.utc(2026, 3, 28) + (index * 1237)).iso8601, data: { "n" => index, "changing" => value })
    end.join("\n")
  end

  def collect(*messages) = outcomes(send_batch(messages, key: key))

  def anything(random, serial)
    one, other = [*(1..5).map { |id| "customer:#{id}" }, *(1..6).map { |id| "visitor:#{id}" }, "email:a@b.example", "email:c@d.example"].sample(2, random: random)
    time = (Time.utc(2026, 5, 1) + random.rand(86_400 * 20)).iso8601
    case random.rand(10)
    when 0, 1, 2 then link("l#{serial}", one, other, time: time)
    when 3, 4 then attributes("a#{serial}", one, time: time, plan: %w[monthly yearly].sample(random: random))
    when 5, 6 then cloud_event("c#{serial}", subject: one, time: time, type: "estrel.consent", data: { "channel" => "sms", "given" => random.rand < 0.5 })
    else cloud_event("e#{serial}", subject: one, time: time, type: %w[ride pass letter].sample(random: random), data: { "n" => random.rand(9) })
    end
  end

  # Which start at once.
  def processes_as_threads
    allow(EstrelServer::LedgerBuilding::Helper).to receive(:start) do |settings|
      here, there = UNIXSocket.pair
      EstrelServer::Workspaces.thread do
        EstrelServer::Record.connection_pool.with_connection do |connection|
          EstrelServer::LedgerBuilding::PieceProcess.new(there, settings).run
        ensure
          # A snapshot left open keeps the tables from being emptied.
          connection.execute("ROLLBACK")
        end
      end
      EstrelServer::LedgerBuilding::Helper.new(here)
    end
  end

  seeds = Checks.seeds(4, every_run: 1)
  seeds.each do |seed|
    it "comes to the same with tails as by building anew, whatever has come in between (seed #{seed})" do
      random = Random.new(seed)
      stub_const("EstrelServer::LedgerBuilding::Touched::FEW", { people: [4, 50].sample(random: random), events: 50_000 })
      serial = 0
      stub_const("EstrelServer::LedgerBuilding::Touched::LARGE", [0, 1_000_000].sample(random: random))
      stub_const("EstrelServer::LedgerBuilding::Pieces::PEOPLE", [3, 250_000].sample(random: random))
      stub_const("Estrel::Ledger::Splice::ROWS_EACH", [0, 500].sample(random: random))
      processes_as_threads
      tails = 0
      collect(attributes("a", "customer:1", plan: "monthly"), cloud_event("b", type: "ride"), cloud_event("c", type: "pass"), cloud_event("d", type: "letter", data: { "n" => 1 }))
      12.times do |round|
        (1 + random.rand(3)).times do
          collect(*Array.new(round.zero? ? 15 : 1 + random.rand(2)) { anything(random, serial += 1) })
          if random.rand < 0.05 && (profile = EstrelServer::Profile.where(merged_into_id: nil).to_a.sample(random: random))
            EstrelServer::People::Eraser.new(profile, "asked").erase
          end
          described_class.new.prepare if random.rand < 0.2
          EstrelServer::Workers::PropertyPacking.new(4).step(Time.now.utc) if random.rand < 0.3
          EstrelServer::Workers::PropertyPacking.new.undo if random.rand < 0.05
          collect(anything(random, serial += 1)) if random.rand < 0.5
          %w[WORTH WORTH_FOR_TAIL].each { |name| stub_const("EstrelServer::LedgerBuilding::PieceProcesses::#{name}", [0, 2_000_000].sample(random: random)) }
          refresh
          tails += 1 if ledger.current.is_a?(Estrel::Ledger::WithTail)
        end
        found = all_of(ledger.current)
        described_class.new.refresh(rebuild: true)
        expect(all_of(ledger.current)).to eq(found)
      end
      expect(tails).to be_positive
      # From a database elsewhere the rows come over the connection.
      found = all_of(ledger.current)
      allow_any_instance_of(EstrelServer::Database).to receive(:beside?).and_return(false) # rubocop:disable RSpec/AnyInstance
      described_class.new.refresh(rebuild: true)
      expect(all_of(ledger.current)).to eq(found)
    end
  end

  it "holds what the store holds, typed, sorted by profile and time" do
    import(history(0, 40))
    refresh
    rides = ledger.current.events("ride")
    expect(rides.columns).to include("property:n", "property:changing")
    expected = EstrelServer::Event.joins(:event_type).where(event_types: { name: "ride" }).order(:profile_id, :occurred_at)
    expect(rides.select(%w[profile_id occurred_at property:n property:changing day]).rows).to eq(
      expected.map do |row|
        changing = row.properties["changing"]
        [row.profile_id, row.occurred_at.to_i * 1_000_000, row.properties["n"].to_f, changing&.to_s,
         Estrel::Calendar.number(row.occurred_at.to_date)]
      end
    )
    expect(ledger.current.catalogue.event_types["ride"].properties["changing"].to_h).to include("type" => "text", "mixed" => true)
    expect(ledger.current.profiles["profile_type"].unique.to_a).to eq(["customer"])
  end

  it "comes to the same by refreshing as by building anew, also when a property changes its type" do
    import(history(0, 3))
    refresh
    import(JSON.generate({ "subject" => "customer:1", "time" => "2026-03-01T00:00:00Z", "attributes" => { "age" => 4, "since" => "2026-01-01T00:00:00Z" } }), kind: "profiles")
    import(history(4, 60))
    import(event("late", type: "ride", subject: "visitor:9", data: { "fresh" => true }))
    refresh
    refreshed = contents(ledger.current)
    FileUtils.rm_rf(ledger.directory)
    described_class.new.refresh
    expect(contents(ledger.current)).to eq(refreshed)
    expect(refreshed["profiles"].flatten).to include("visitor")
  end

  it "leaves a reader the generation it has, and switches at once" do
    import(history(0, 10))
    refresh
    held = ledger.current
    unread = Estrel::Ledger.new(ledger.directory).current
    before = contents(held)
    import(history(11, 30))
    4.times { refresh }
    expect([held, unread].map { |generation| contents(generation) }).to all(eq(before))
    expect(ledger.current.number).to eq(held.number + 4)
    expect(ledger.current.facts["event_count"]).to eq(31)
    expect(ledger.current).to be_a(Estrel::Ledger::WithTail)
    late = Estrel::Ledger.new(ledger.directory).current
    FileUtils.touch(Dir[File.join(ledger.directory, "*.json")], mtime: Time.now - EstrelServer.settings.question_seconds)
    3.times { refresh }
    kept = Estrel::Ledger::Directory::GENERATIONS_KEPT + 1 # with the one of which they are the tails
    expect(Dir.children(ledger.directory).grep(/json/).size).to eq(kept)
    expect { contents(late) }.to raise_error(Estrel::Ledger::Missing)
  end

  it "knows whom a device's past belongs to when its later owner is erased before anybody has read of it" do
    collect(cloud_event("a", type: "ride", subject: "visitor:v"), cloud_event("b", type: "ride", subject: "customer:1"))
    refresh
    collect(link("l", "visitor:v", "customer:1"))
    collect(link("m", "visitor:v", "customer:2"))
    EstrelServer::People::Eraser.new(EstrelServer::Identifier.find_by!(value: "2").profile, "asked").erase
    refresh
    found = all_of(ledger.current)
    expect(ledger.current.events("ride")["profile_id"].to_a.uniq).to eq([EstrelServer::Identifier.find_by!(value: "1").profile_id])
    described_class.new.refresh(rebuild: true)
    expect(all_of(ledger.current)).to eq(found)
  end

  it "takes up a base that was prepared meanwhile, unless it holds somebody who has been erased since" do
    import([event("a"), event("b", subject: "customer:gone"), event("c", subject: "customer:2")].join("\n"))
    refresh
    import(event("d"))
    described_class.new.prepare
    import(event("e", subject: "customer:2"))
    expect(described_class.new).to be_behind
    refresh
    expect([ledger.current.touched.len, ledger.current.base.facts["event_count"], ledger.current.facts["event_count"]]).to eq([1, 4, 5])
    expect(described_class.new).not_to be_behind
    described_class.new.prepare
    EstrelServer::People::Eraser.new(EstrelServer::Identifier.find_by!(value: "gone").profile, "asked").erase
    refresh
    expect(ledger.current.facts["event_count"]).to eq(4)
    expect(ledger.current).not_to be_a(Estrel::Ledger::WithTail)
    expect(described_class.new).not_to be_behind
    import(event("f"))
    refresh
    kept = Dir.children(ledger.directory)
    expect(kept.grep(/PREPAR/)).to be_empty
    used = kept.grep(/json/).flat_map { |name| Estrel::Ledger::Manifest.read(File.join(ledger.directory, name)).files }
    expect(kept.grep(/arrow/)).to match_array(used.uniq)
  end

  it "is written by several processes at once, each from the store, and by itself where these fail" do
    stub_const("EstrelServer::LedgerBuilding::Pieces::PEOPLE", 2)
    %w[WORTH WORTH_FOR_TAIL].each { |name| stub_const("EstrelServer::LedgerBuilding::PieceProcesses::#{name}", 0) }
    written = []
    allow(EstrelServer::LedgerBuilding::PieceProcesses).to receive(:new).and_wrap_original do |made, *given|
      processes = made.call(*given)
      pid = processes.instance_variable_get(:@all).first.instance_variable_get(:@pid)
      allow(processes).to receive(:write).and_wrap_original do |write, *of|
        Process.kill("KILL", pid) if written.size == 1
        write.call(*of).tap { |found| written << found.size }
      end
      processes
    end
    builder = described_class.new(ledger, EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_ANSWERING_PROCESSES" => "3")))
    collect(cloud_event("v", type: "ride", subject: "visitor:v"), attributes("a", "customer:1", mail: "a@b.example"))
    import(history(0, 40))
    builder.build
    collect(link("l", "visitor:v", "customer:1"), cloud_event("w", type: "pass", subject: "customer:3"))
    builder.prepare
    expect([written, ledger.prepared.pieces.size]).to match([[4, 3], 4]) # the first of three processes has been killed
    expect(EstrelServer::AttributeDefinition.find_by!(name: "mail").personal_suggested).to be(true)
    collect(cloud_event("x", type: "ride", subject: "customer:new"))
    builder.build
    found = all_of(ledger.current)
    stub_const("EstrelServer::LedgerBuilding::PieceProcess::ESTREL", "/bin/false")
    builder.build(rebuild: true)
    expect([written.last, ledger.current.pieces.size]).to eq([0, 4])
    expect(all_of(ledger.current)).to eq(found)
    stub_const("EstrelServer::LedgerBuilding::Pieces::PEOPLE", 250_000)
    builder.build(rebuild: true)
    expect(all_of(ledger.current)).to eq(found)
  end

  it "computes days anew when the reporting time zone changes" do
    import(event("a", time: "2026-05-03T23:30:00Z"))
    refresh
    expect(ledger.current.newest_day).to eq(Date.new(2026, 5, 3))
    EstrelServer::Workspace.current.update!(time_zone: "Europe/Berlin")
    refresh
    expect(ledger.current.events("ride_ended")["day"].to_a).to eq([Estrel::Calendar.number(Date.new(2026, 5, 4))])
  end

  it "tells visits apart anew when the visit gap changes, and when events of a type become system messages" do
    import([event("a"), event("b", time: "2026-05-03T10:40:00Z"), event("c", time: "2026-05-03T10:20:00Z", type: "letter")].join("\n"))
    refresh
    visits = -> { ledger.current.spine["visit_start"].to_a.map { |start| start && (((start / 60_000_000) % 1440) - 600) } }
    expect(visits.call).to eq([0, 0, 0])
    EstrelServer::EventType.find_by!(name: "letter").update!(not_activity: true)
    refresh
    expect(visits.call).to eq([0, nil, 40])
    EstrelServer::Workspace.current.update!(visit_gap_minutes: 45)
    expect(described_class.new).to be_behind
    refresh
    expect(visits.call).to eq([0, nil, 0])
    expect(described_class.new).not_to be_behind
  end

  it "is not read where it is of an older form, as after an upgrade, and is built anew" do
    import(event("a"))
    refresh
    manifest = File.join(ledger.directory, ledger.current.manifest_name)
    File.write(manifest, File.read(manifest).sub(/"form":\d+/, "\"form\":1"))
    upgraded = Estrel::Ledger.new(ledger.directory)
    expect { upgraded.current }.to raise_error(Estrel::Ledger::Missing, /of form 1/)
    builder = described_class.new(upgraded)
    expect(builder).to be_behind
    builder.refresh
    expect(upgraded.current.facts["event_count"]).to eq(1)
    expect(builder).not_to be_behind
  end

  it "ends with the newest event, else the newest value, and nowhere where all values have always held" do
    people = "subject,plan\ncustomer:1,monthly\n"
    import(people, kind: "profiles", mapping: { "always" => true }, name: "people.csv")
    refresh
    expect(ledger.current.newest_day).to be_nil
    import("subject,plan,time\ncustomer:1,yearly,2026-05-09T10:00:00Z\n", kind: "profiles", name: "later.csv")
    refresh
    expect(ledger.current.newest_day).to eq(Date.new(2026, 5, 9))
    import(event("a"))
    refresh
    expect(ledger.current.newest_day).to eq(Date.new(2026, 5, 3))
  end
end
