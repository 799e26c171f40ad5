# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Importing::FileImporter do
  def counts(import) = [import.state, import.rows_read, import.stored, import.already_known, import.rejected]

  it "stores events once, however often they come" do
    lines = [event("a"), event("b", subject: "visitor:v1", data: { "km" => 1, "dock" => "Old Mint" }), event("a")].join("\n")
    expect(counts(import(lines))).to eq(["done", 3, 2, 1, 0])
    before = stored
    expect(counts(import(lines))).to eq(["done", 3, 0, 3, 0])
    expect(stored).to eq(before)
    expect(before[:events].map { |row| row[1] }).to eq(%w[a b])
    expect(before[:catalogue]).to eq([["ride_ended", "dock", "text", false], ["ride_ended", "km", "number", false]])
  end

  it "keeps the first of two events with one id and reports the conflict, in one file and across files" do
    first = import([event("a"), event("a", data: { "km" => 9 }), event("a", subject: "customer:2")].join("\n"))
    expect(counts(first)).to eq(["done", 3, 1, 0, 2])
    expect(first.conflicts).to eq(2)
    second = import(event("a", time: "2026-05-03T10:00:01Z"))
    expect(reasons(second)).to match([[1, /this ID and different data already exists/]])
    expect(stored[:events].map { |row| row[6] }).to eq([{ "km" => 4.5 }])
    expect(stored[:profiles]).to eq(1)
  end

  it "rejects rows while its progress is noted on another connection, without a deadlock" do
    noting = []
    allow(EstrelServer::Importing::SQL).to receive(:insert).and_wrap_original do |insert, table, *rows|
      insert.call(table, *rows)
      next unless table == "rejects"

      noting << Thread.new { EstrelServer::Record.connection_pool.with_connection { EstrelServer::Import.update_all(bytes_done: 1) } }
      waiting = -> { EstrelServer::Record.connection.select_value("SELECT COUNT(*) FROM information_schema.processlist WHERE info LIKE 'UPDATE `imports`%'").positive? }
      Timeout.timeout(20) { sleep 0.01 until waiting.call }
    end
    expect(counts(import([event("a"), event("b", time: nil)].join("\n")))).to eq(["done", 2, 1, 0, 1])
    noting.each(&:value)
    expect(noting.size).to eq(1)
  end

  it "reads CSV in any column order, quoted fields over several lines, gzip, a byte-order mark, and a mapping" do
    csv = "\xEF\xBB\xBFwhen,what,uid,km,note,note2\r\n1777802400,ride_ended,7,4.5,\"a \"\"b\"\",\nc\",x\r\n1777802401,ride_ended,7,,,\r\n"
    mapping = { "columns" => { "time" => "when", "type" => "what", "identifier.customer" => "uid" }, "ignore" => ["note2"],
                "constants" => { "source" => "till" }, "rename" => { "km" => "distance_km" } }
    expect(counts(import(Zlib.gzip(csv.b), mapping: mapping))).to eq(["done", 2, 2, 0, 0])
    rows = stored[:events].sort_by { |row| row[5] }
    expect(rows.first).to match(["till", /\Arow-/, "ride_ended", "customer", "7", Time.utc(2026, 5, 3, 10), { "distance_km" => 4.5, "note" => "a \"b\",\nc" }])
    expect(rows.last.last).to eq({})
  end

  it "finds out the format of times per file and never per row" do
    rows = Array.new(20) { |index| "m#{index},a,customer:1,#{1_777_802_400_000 + (index * 500)}\n" }.join
    done = import("id,type,subject,time\n#{rows}x,a,customer:1,2026-05-03T10:00:00Z\n")
    expect(reasons(done)).to eq([[22, "\"2026-05-03T10:00:00Z\" is not a number of milliseconds."]])
    expect(EstrelServer::Event.find_by(event_key: "m1").occurred_at).to eq(Time.utc(2026, 5, 3, 10, 0, Rational(1, 2)))
    mixed = import("id,type,subject,time\n4,a,customer:1,1777802400\n5,a,customer:1,1777802400000\n")
    expect([mixed.state, mixed.error]).to match(["failed", /different formats/])
    zoned = "id,type,subject,time\n6,a,customer:1,2026-05-03 12:00:00\n"
    expect(reasons(import(zoned)).first.last).to match(/has no time zone/)
    import(zoned, mapping: { "time_zone" => "Europe/Berlin" })
    expect(EstrelServer::Event.find_by(event_key: "6").occurred_at).to eq(Time.utc(2026, 5, 3, 10))
  end

  it "refuses bad rows one by one, with number, reason and the row as it was" do
    future = (Time.now.utc + 86_400).iso8601
    bad = {
      event("r1", subject: "custmer:1") => /no identifier kind "custmer"; did you mean "customer"/,
      event("r2", subject: "1") => /has no identifier type/, event("r3", subject: "customer:") => /identifier is empty/,
      event("r4", subject: nil) => /identifier is missing/, event("r5", time: nil) => /time is missing/,
      event("r6", time: "0001-01-01T00:00:00Z") => /before 1970/, event("r7", time: "9999-12-31T00:00:00Z") => /in the future/,
      event("r8", time: future) => /in the future/, event("r9", time: "2026-02-30T00:00:00Z") => /no such time/,
      event("r10", type: "") => /type is missing/, event("r11", specversion: "2.0") => /CloudEvents 1.0/,
      event("r12", data: [1]) => /“data” must be an object/, event("r13", subject: "customer:#{"x" * 300}") => /longer than 255/,
      event("r14", subject: "customer:a\u0007") => /control characters/, "{\"id\":" => /not valid JSON/, "[1]" => /not a JSON object/,
      event("r15").sub("4.5", "NaN") => /not valid JSON/, "{\"id\":\"\xFF\"}" => /not valid UTF-8/,
      event("r16", data: { "note" => "x" * 5_000_000 }) => /longer than 1048576 bytes/
    }
    done = import([event("good1"), *bad.keys, event("good2")].join("\n"))
    expect(counts(done)).to eq(["done", bad.size + 2, 2, 0, bad.size])
    expect(reasons(done)).to match(bad.values.each_with_index.map { |reason, index| [index + 2, reason] })
    expect(done.rejects.order(:row_number).first.original).to eq(bad.keys.first)
    expect(stored[:events].map { |row| row[1] }).to eq(%w[good1 good2])
  end

  it "accepts times a little ahead of the clock" do
    expect(counts(import(event("a", time: (Time.now.utc + 60).iso8601)))).to eq(["done", 1, 1, 0, 0])
  end

  it "refuses files it cannot read, and leaves the data untouched" do
    { "" => /file is empty/, "id,id\n1,2\n" => /must be unique and not empty/, Zlib.gzip("id,type\n")[0, 20] => /damaged/ }.each do |content, error|
      failed = import(content)
      expect([failed.state, failed.error]).to match(["failed", error])
    end
    expect(counts(import("id,type,subject,time\n"))).to eq(["done", 0, 0, 0, 0])
    expect(counts(import("id,type,subject,time\n1,a,customer:1\n\"2,a,customer:1,2026-05-03\n"))).to eq(["done", 2, 0, 0, 2])
    expect(stored[:profiles]).to eq(0)
  end

  it "keeps nested and changing properties as text and flags them" do
    import([event("a", data: { "km" => 1, "bag" => { "x" => [1] } }), event("b", data: { "km" => "far" }),
            event("c", data: { "at" => "2026-05-03T10:00:00Z" })].join("\n"))
    expect(stored[:catalogue]).to eq([["ride_ended", "at", "time", false], ["ride_ended", "bag", "text", true],
                                      ["ride_ended", "km", "text", true]])
  end

  it "imports profiles with identifiers and the history of their attributes" do
    file = [{ "subject" => "customer:1", "identifiers" => { "email" => "a@b.example" }, "time" => "2026-01-01T00:00:00Z",
              "attributes" => { "plan" => "monthly", "age" => 30 } },
            { "subject" => "email:a@b.example", "time" => "2026-02-01T00:00:00Z", "attributes" => { "plan" => nil } },
            { "subject" => "customer:2", "identifiers" => { "email" => "a@b.example" } }].map { |row| JSON.generate(row) }.join("\n")
    done = import(file, kind: "profiles")
    expect(counts(done)).to eq(["done", 3, 2, 0, 1])
    expect(reasons(done)).to eq([[3, "The row would give one person two customer IDs."]])
    expect(EstrelServer::AttributeValue.joins(:attribute_definition).order(:occurred_at).pluck("attribute_definitions.name", :value))
      .to contain_exactly(%w[plan monthly], ["age", 30], ["plan", nil])
    before = stored
    import(file, kind: "profiles")
    expect(stored).to eq(before)
  end

  it "changes nothing when a profile file without times comes again" do
    csv = "customer,email,plan,age\n1,a@b.example,monthly,30\n2,,\"pay as you go\",\n1,,weekly,\n"
    first = import(csv, kind: "profiles")
    expect(counts(first)).to eq(["done", 3, 2, 0, 1])
    before = stored
    expect(counts(import(csv, kind: "profiles"))).to eq(["done", 3, 0, 2, 1])
    expect(stored).to eq(before)
  end

  it "stores the same whether rows are read together or one by one" do
    random = Random.new(Checks.seed)
    stub_const("#{described_class}::BATCH", 60)
    lines = Array.new(600) { |index| random_line(random, index) }
    changed = lines.map { |line| random.rand(9).zero? ? line.sub("\"n\":", "\"m\":").sub("T10", "T09") : line }
    outcome = lambda do |mapping|
      EstrelServer::Workspace.clear
      done = import(lines.join("\n"), mapping: mapping)
      again = import([*changed, event("fresh")].join("\n"), mapping: mapping)
      [counts(done), reasons(done), counts(again), reasons(again), stored, EstrelServer::Event.order(:event_key).pluck(:event_key, :device)]
    end
    together = outcome.call({})
    expect(together).to eq(outcome.call({ "ignore" => ["nothing"] })), "seed #{random.seed}"
    # A database elsewhere reads no files of ours.
    allow_any_instance_of(EstrelServer::Database).to receive(:beside?).and_return(false) # rubocop:disable RSpec/AnyInstance
    expect(outcome.call({})).to eq(together), "seed #{random.seed}"
  end

  def random_line(random, index)
    pick = ->(*list) { list[random.rand(list.size)] }
    line = event("e#{random.rand(10) < 8 ? index : random.rand(600)}", type: pick.call("ride", "pass", "a b", "ü"),
                                                                       source: pick.call("app", "web", nil), subject: pick.call("customer:1", "customer:é", "visitor:2", "x:1", 5),
                                                                       time: pick.call("2026-05-03T10:00:00Z", "2026-05-03T10:00:00.123Z", "2026-05-03T10:00:00+02:00", "2026-02-31T10:00:00Z", "2999-01-01T00:00:00Z"),
                                                                       receivedat: pick.call(nil, nil, "2026-05-04T10:00:00Z", "later"),
                                                                       data: pick.call({}, nil, { "n" => random.rand(3) }, { "n" => "1" }, { "s" => "a {b} \"c\" \\ : ,\t é" }, { "b" => true, "z" => nil },
                                                                                       { "t" => "2026-05-03T10:00:00Z" }, { "x" => { "y" => 1 } }, { "k:" => "v", "type" => "odd" }))
    case random.rand(20)
    when 0 then line.sub("{", "{\"id\":\"twice\",")
    when 1 then line.sub(":", " :\t")
    when 2 then line[0, random.rand(line.size)]
    else line
    end
  end

  # Rows of a CSV file: most of them ordinary, some odd in each of the ways a row can be.
  def random_rows(random)
    pick = ->(*list) { list[random.rand(list.size)] }
    Array.new(400) do |index|
      ["e#{random.rand(10) < 8 ? index : random.rand(400)}", pick.call("ride", "pass", "ride", "a b", ""), pick.call("customer:1", "customer:2", "customer:é", "x:1", ""),
       pick.call(*["2026-05-03T10:00:00Z"] * 6, "2026-05-03T10:00:00.123Z", "2026-05-03T10:00:00+02:00", "2026-02-31T10:00:00Z", "2999-01-01T00:00:00Z", "soon"),
       pick.call("1", "2.50", "-3", "1e5", "12345678901234567890", "007", "n/a", ".5", "", "+1"), pick.call("true", "false", "", "yes"),
       pick.call("a", "", "ü b", "\"quoted, \"\"so\"\"\"", "back\\slash", "2026-05-03T10:00:00Z", "tab\there", "{}"), pick.call("a@b.example", "", "", "no address")].join(",")
    end
  end

  it "stores the same whether rows of CSV are read together or one by one, whatever the columns are called" do
    random = Random.new(Checks.seed)
    stub_const("#{described_class}::BATCH", 60)
    rows = random_rows(random)
    heads = { "id,type,subject,time,n,b,s,extra" => {},
              "key,what,subject,when,n,b,s,mail" => { "columns" => { "id" => "key", "type" => "what", "time" => "when", "identifier.email" => "mail" }, "rename" => { "n" => "number \"of\"" }, "ignore" => ["b"] },
              "no,type,subject,time,n,b,s,extra" => { "constants" => { "source" => "till" }, "types" => { "n" => "text" } } }
    heads.each do |head, mapping|
      file = [head, *rows].join("\n")
      outcome = lambda do
        EstrelServer::Workspace.clear
        done = import(file, mapping: mapping)
        again = import(file.gsub("2.50", "2.51"), mapping: mapping)
        [counts(done), reasons(done), counts(again), reasons(again), stored, EstrelServer::Event.order(:event_key).pluck(:event_key, :device)]
      end
      together = outcome.call
      allow(EstrelServer::Importing::OrdinaryRows).to receive(:new).and_return(nil)
      expect(together).to eq(outcome.call), "seed #{random.seed}, #{head}"
      allow(EstrelServer::Importing::OrdinaryRows).to receive(:new).and_call_original
    end
  end

  it "keeps nothing of what comes with an event it refuses" do
    import([event("a"), event("b")].join("\n"))
    lines = [event("a"), event("c"), event("b", type: "odd", subject: "customer:new", data: { "km" => "far", "m" => 1 })].join("\n")
    expect(counts(import(lines))).to eq(["done", 3, 1, 1, 1])
    expect(stored.slice(:identifiers, :profiles, :catalogue))
      .to eq(identifiers: [%w[customer 1]], profiles: 1, catalogue: [["ride_ended", "km", "number", false]])
    expect(EstrelServer::EventType.pluck(:name)).to eq(["ride_ended"])
  end

  it "finds people again whom it had known but no longer has in memory" do
    stub_const("#{described_class}::BATCH", 40)
    stub_const("EstrelServer::Importing::Identity::MEMORY", 30)
    lines = Array.new(400) { |index| event("e#{index}", subject: "customer:#{(index * 7) % 90}") }
    expect(counts(import(lines.join("\n")))).to eq(["done", 400, 400, 0, 0])
    expect(EstrelServer::Identifier.count).to eq(90)
  end

  it "gives the same data when it was killed in the middle and run again" do
    lines = Array.new(60_000) { |index| event("e#{index}", subject: "customer:#{index % 900}", time: (Time.utc(2026, 1, 1) + (index * 60)).iso8601) }
    Dir.mktmpdir do |directory|
      path = File.join(directory, "events.jsonl")
      File.write(path, lines.join("\n"))
      import_file(path)
      clean = stored
      EstrelServer::Workspace.clear

      said = File.join(directory, "said")
      pid = Process.spawn(File.join(ROOT, "bin/estrel"), "import", "events", path, out: said, err: %i[child out])
      until EstrelServer::Event.exists?
        raise "it ended before it had stored anything: #{File.read(said)}" if Process.wait(pid, Process::WNOHANG)

        sleep 0.01
      end
      Process.kill("KILL", pid)
      Process.wait(pid)
      partial = EstrelServer::Event.count
      expect(partial).to be_between(1, 59_999)

      # The database frees a dead process's lock when it has noticed.
      200.times do
        EstrelServer::Import.settle_interrupted
        EstrelServer::Import.last.error ? break : sleep(0.05)
      end
      expect(EstrelServer::Import.last.error).to match(/interrupted/)
      expect(counts(import_file(path))).to eq(["done", 60_000, 60_000 - partial, partial, 0])
      expect(stored).to eq(clean)
    end
  end

  it "stops when it is cancelled, keeping what was stored" do
    Dir.mktmpdir do |directory|
      path = File.join(directory, "events.jsonl")
      File.write(path, Array.new(50_000) { |index| event("e#{index}") }.join("\n"))
      done = import_file(path) { |progress| EstrelServer::Import.where(id: progress.id).update_all(cancel_requested: true) }
      expect([done.state, EstrelServer::Event.count]).to match(["cancelled", be_between(1, 49_999)])
    end
  end

  it "takes the reserved types in the order of the file, once" do
    lines = [event("a", subject: "visitor:v"), event("l", type: "estrel.link", subject: "visitor:v", data: { "same_as" => "customer:1" }),
             event("b", subject: "visitor:v"), event("c", type: "estrel.consent", data: { "channel" => "sms", "given" => true }),
             event("t", type: "estrel.attributes", data: { "plan" => "monthly" }, receivedat: "2026-05-04T00:00:00Z"),
             event("x", type: "estrel.other")].join("\n")
    done = import(lines)
    expect(counts(done)).to eq(["done", 6, 5, 0, 1])
    expect(reasons(done)).to match([[6, /reserved/]])
    expect(counts(import(lines))).to eq(["done", 6, 0, 5, 1])
    expect(EstrelServer::Identifier.find_by(value: "v").profile.events.pluck(:event_key)).to eq(%w[a b])
    expect(EstrelServer::AttributeValue.pluck(:value)).to eq(["monthly"])
    expect(EstrelServer::Receipt.order(:id).pluck(:kind, :received_at).last).to eq(["attributes", Time.utc(2026, 5, 4)])
  end

  it "stops in a file of blank lines too, by what has been unpacked" do
    lines = Zlib.gzip("\n" * 30_000_000)
    done = Thread.new { import(lines, name: "blank.jsonl.gz") }
    sleep(0.1) until (row = EstrelServer::Import.last)&.state == "running"
    sleep(0.1) until row.reload.bytes_done.positive?
    row.update_columns(cancel_requested: true)
    expect(done.value).to have_attributes(state: "cancelled", rows_read: 0)
    limited = EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_UNPACKED_MB" => "1"))
    Dir.mktmpdir do |directory|
      File.binwrite(path = File.join(directory, "blank.gz"), lines)
      input = EstrelServer::Importing::InputFile.new(path, limit: limited.unpacked_mb * 1_000_000)
      expect { input.each_line { |_| nil } }.to raise_error(EstrelServer::Importing::InputFile::Unreadable, /unpacks to more than 1 MB/)
      pulses = 0
      EstrelServer::Importing::InputFile.new(path) { (pulses += 1) == 3 && throw(:enough) }.then { |read| catch(:enough) { read.each_line { |_| nil } } }
      expect(pulses).to eq(3)
    end
  end
end
