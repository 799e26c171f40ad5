# frozen_string_literal: true

require_relative "server_helper"
require "open3"

RSpec.describe EstrelServer::BackingUp do
  include ApiHelper

  let(:place) { File.join(ROOT, "var/backup") }
  let(:copy) { File.join(place, "copy") }
  let(:keys) { File.join(place, "keys.json") }
  let(:elsewhere) { File.join(place, "restored") }

  before { FileUtils.rm_rf(place).then { FileUtils.mkdir_p(place) } }

  after { FileUtils.rm_rf(place) }

  def estrel(*words, var: EstrelServer.settings.var, **env)
    said, status = Open3.capture2e({ "ESTREL_VAR" => var, **env.transform_keys(&:to_s) }, File.join(ROOT, "bin/estrel"), *words)
    [said, status.exitstatus]
  end

  # What is in the tables of an installation of its own.
  def in_database(var, **env)
    settings = EstrelServer::Settings.from({ "ESTREL_VAR" => var, **env.transform_keys(&:to_s) })
    database = EstrelServer::Database.new(settings)
    database.during do
      client = database.client
      yield ->(sql) { client.query(sql).to_a }
    ensure
      client&.close
    end
  end

  def manifest = JSON.parse(File.read(File.join(copy, "manifest.json")))

  # Writes to two tables in one transaction at a time, for as long as the block takes.
  def while_writing
    going = true
    writer = Thread.new do
      EstrelServer::Record.connection_pool.with_connection do
        (1..).each do |number|
          break unless going

          EstrelServer::Record.transaction do
            EstrelServer::Source.create!(name: "pair-#{number}")
            EstrelServer::Annotation.create!(date: "2026-05-01", text: "pair-#{number}")
          end
        end
      end
    end
    yield
  ensure
    going = false
    writer.join
  end

  # An export that was under way, one whose time had passed, a file that waited to be imported, and somebody erased.
  def leave_things_undone
    audience = call(:post, "/audiences", { name: "All", definition: { "all" => [] } })
    rules = { columns: [{ take: "identifier:customer" }], schedule: { every: "day", at: "06:00" } }
    export = EstrelServer::Export.find(call(:post, "/exports", { name: "Daily", audience_id: audience["id"], rules: rules, as_of: "2026-05-20" })["id"])
    export.update_columns(next_run_at: Time.now.utc - 86_400)
    call(:post, "/exports/#{export.id}/runs", { as_of: "2026-05-20" })
    upload = File.join(EstrelServer.settings.uploads_directory, "waiting.csv").tap { |path| FileUtils.mkdir_p(File.dirname(path)) }
    File.write(upload, "waiting")
    EstrelServer::Import.create!(kind: "events", file_name: "waiting.csv", path: upload, mapping: {})
    EstrelServer::ErasedIdentifier.digests(["customer:1"])
  end

  it "copies one instant while others write, and restores it elsewhere, where nothing is sent by itself" do
    fill
    leave_things_undone
    EstrelServer::Workers::PropertyPacking.new(5).step(Time.now.utc + 1)
    digest = EstrelServer::ErasedIdentifier.digests(["customer:1"])
    while_writing { expect(estrel("backup", copy, "--keys", keys)).to match([/\A[\d,]+ profiles and [\d,]+ events, /, 0]) }
    rows = manifest["tables"].transform_values { |table| table["rows"] }
    expect(rows["events"]).to eq(EstrelServer::Event.count)
    expect(estrel("verify", copy)).to match([/^all #{rows.size} tables are restored as they were/, 0])
    expect(estrel("restore", copy, "--keys", keys, var: elsewhere)).to match([/nothing|missed times are not made up for/, 0])

    in_database(elsewhere) do |query|
      expect(rows.keys.to_h { |table| [table, query.call("SELECT COUNT(*) FROM `#{table}`").first.first] }.except("delayed_jobs"))
        .to eq(rows.except("delayed_jobs"))
      form = ->(sql) { sql.sub(/ AUTO_INCREMENT=\d+/, "") }
      here = rows.keys.map { |table| form.call(EstrelServer::Record.connection.select_rows("SHOW CREATE TABLE `#{table}`").first.last) }
      expect(rows.keys.map { |table| form.call(query.call("SHOW CREATE TABLE `#{table}`").first.last) }).to eq(here)
      pairs = ["name FROM sources", "text FROM annotations"].map { |from| query.call("SELECT #{from} WHERE #{from[/\w+/]} LIKE 'pair-%'").flatten.sort }
      expect(pairs.uniq.size).to eq(1)
      expect(query.call("SELECT state, under_way FROM export_runs")).to eq([["cancelled", nil]])
      expect(query.call("SELECT next_run_at FROM exports").first.first).to be > Time.now.utc
      expect([query.call("SELECT path FROM imports WHERE file_name = 'waiting.csv'"), query.call("SELECT content FROM property_blocks")])
        .to eq([[[File.join(elsewhere, "uploads/waiting.csv")]], [[EstrelServer::PropertyBlock.pick(:content)]]])
    end
    expect(File.read(File.join(elsewhere, "uploads/waiting.csv"))).to eq("waiting")
    stub_const("Restored", EstrelServer::Settings.from({ "ESTREL_VAR" => elsewhere }))
    allow(EstrelServer).to receive(:settings).and_return(Restored)
    expect(EstrelServer::ErasedIdentifier.digests(["customer:1"])).to eq(digest)
  end

  it "tells a backup that is not what was written, one that was not finished, and what stands in the way" do
    fill
    expect(estrel("backup", copy)).to match([/the keys are not in it/, 0])
    expect(estrel("backup", copy)).to match([/is not empty/, 1])
    expect(estrel("restore", copy, "--until", "2026-11-01T00:00:00Z", var: elsewhere)).to match([/--until needs --logs/, 1])
    expect(estrel("restore", copy, "--logs", place, var: elsewhere)).to match([/binary logging was off/, 1])
    FileUtils.mkdir_p(File.join(elsewhere, "database"))
    expect(estrel("restore", copy, var: elsewhere)).to match([/there is something in .* already/, 1])
    expect(estrel("restore", copy, "--keys", File.join(copy, "database.sql.gz"), var: File.join(place, "third"))).to match([/does not hold keys/, 1])

    # Somebody left an event out, and made the file fit again.
    sql = File.join(copy, "database.sql.gz")
    text = Zlib.gunzip(File.binread(sql))
    File.binwrite(sql, Zlib.gzip(text.sub(/(INSERT INTO `events` VALUES\n)\(.*?\),\n/, "\\1")))
    expect(estrel("verify", copy)).to match([/database.sql.gz in .* is not what was written/, 1])
    File.write(File.join(copy, "manifest.json"), JSON.generate(manifest.merge("files" => { "database.sql.gz" => Digest::SHA256.file(sql).hexdigest })))
    expect(estrel("verify", copy)).to match([/\Aevents would not be as they were: (\d+) rows instead of/, 1])
    FileUtils.rm(sql)
    expect(estrel("verify", copy)).to match([/database.sql.gz in .* is missing/, 1])
    FileUtils.rm(File.join(copy, "manifest.json"))
    expect(estrel("verify", copy)).to match([/is no backup, or one that was not finished/, 1])
  end

  # Made by the version of that day, of what `fill` has filled in, an audience of two versions, a rule set and an export
  # that was carried out once.
  it "restores a backup of an earlier version, brings its tables up to date, and answers as that version did" do
    expect(estrel("restore", File.join(ROOT, "server/spec/fixtures/backup-20261130"), var: elsewhere)).to match([/\A6 profiles and 27 events as of 2026-11-29/, 0])
    expect(estrel("ledger", "build", var: elsewhere)).to match([/^27 events in the ledger/, 0])
    expect(estrel("write", File.join(place, "files"), var: elsewhere)).to match([/\A3 files/, 0])
    riders = JSON.parse(File.read(File.join(place, "files/audiences/riders.json")))
    expect(riders["definition"]["all"].first["did"]["count"]).to eq({ "at_least" => 4 })
    in_database(elsewhere) do |query|
      expect(query.call("SELECT MAX(version) FROM schema_migrations").first.first.to_i).to eq(ActiveRecord::MigrationContext.new(EstrelServer::Database::Store::MIGRATIONS).migrations.last.version)
      expect(query.call("SELECT number FROM audience_versions ORDER BY number").flatten).to eq([1, 2])
      expect(query.call("SELECT state, row_count FROM export_runs")).to eq([["done", 4]])
    end
    ledger = Estrel::Ledger.new(File.join(elsewhere, "ledger")).current
    definition = Estrel::Audience::Definition.parse(JSON.generate(riders["definition"]), catalogue: ledger.catalogue)
    members = Estrel::Audience::Evaluator.new(ledger, as_of: Date.new(2026, 5, 20)).members(definition)
    expect(members.to_a.size).to eq(4)
  end

  it "follows what has changed since up to a time, from binary logs", :nightly do
    source = File.join(place, "source")
    days = { ESTREL_BINARY_LOG_DAYS: "2" }
    at = nil
    in_database(source, **days) do
      expect(estrel("source", "add", "before", var: source, **days).last).to eq(0)
      expect(estrel("backup", copy, var: source, **days).last).to eq(0)
      expect(estrel("source", "add", "since", var: source, **days).last).to eq(0)
      at = (Time.now.utc + 1).tap { sleep 2 }
      expect(estrel("source", "add", "later", var: source, **days).last).to eq(0)
    end
    logs = File.join(source, "database/changes")
    expect(estrel("restore", copy, "--logs", logs, "--until", "yesterday", var: elsewhere)).to match([/--until must be a time/, 1])
    expect(estrel("restore", copy, "--logs", logs, "--until", "2020-01-01T00:00:00Z", var: elsewhere)).to match([/was made after that time/, 1])
    expect(estrel("restore", copy, "--logs", logs, "--until", at.iso8601, var: elsewhere)).to match([/and what followed, restored/, 0])
    in_database(elsewhere) { |query| expect(query.call("SELECT name FROM sources ORDER BY id").flatten).to eq(%w[before since]) }
    all = File.join(place, "all")
    expect(estrel("restore", copy, "--logs", logs, var: all).last).to eq(0)
    in_database(all) { |query| expect(query.call("SELECT name FROM sources ORDER BY id").flatten).to eq(%w[before since later]) }
  end
end
