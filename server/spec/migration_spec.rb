# frozen_string_literal: true

require_relative "server_helper"

# The tables as they were before they got the trade's words, with what had been written into them, brought up to date.
RSpec.describe EstrelServer::Database::Store do
  let(:settings) { EstrelServer::Settings.from({ "ESTREL_VAR" => File.join(ROOT, "var/before-words"), "APP_ENV" => "test" }) }
  let(:database) { EstrelServer::Database.new(settings) }
  let(:pid) { database.start }

  before do
    FileUtils.rm_rf(settings.var)
    pid
    ActiveRecord::Base.establish_connection(database.owner_connection)
    migrate(20_261_126_000_001)
  end

  after do
    described_class.connect
    database.stop(pid)
  end

  def migrate(version = nil) = ActiveRecord::MigrationContext.new(described_class::MIGRATIONS).migrate(version)

  def run(sql) = ActiveRecord::Base.connection.execute(sql)

  def json(sql) = JSON.parse(ActiveRecord::Base.connection.select_value(sql))

  def quote(value) = ActiveRecord::Base.connection.quote(value.is_a?(String) ? value : JSON.generate(value))

  def fill
    old = { all: [{ kind: { is: ["visitor"] } }, { any: [{ not: { lifecycle: { is: %w[unseen dormant], returned: true, policy: { id: 1 } } } }] },
                  { campaign: { was: "returned", from: ["unseen"], window: { ever: true } } },
                  { campaign: { run: { of: "longest", at_least: 2 }, window: { ever: true } } },
                  { did: { event: "kind", count: { at_least: 1, of: "events" }, window: { ever: true } } }] }
    rules = { columns: [{ take: "kind", as: "kind" }, { take: "quiet_days", as: "quiet" }, { take: "attribute:kind", as: "a" }] }
    run("INSERT INTO audiences (id, name, created_at, updated_at) VALUES (1, 'Old', NOW(), NOW())")
    run("INSERT INTO audience_versions (id, audience_id, number, definition, digest, sentence, created_at) VALUES (1, 1, 1, #{quote(old)}, 'x', 'unseen people', NOW())")
    run("INSERT INTO exports (id, audience_id, name, rules, created_at, updated_at) VALUES (1, 1, 'Out', #{quote(rules)}, NOW(), NOW())")
    run("INSERT INTO export_runs (id, export_id, audience_version_id, as_of, rules, known_on, waterfall, state, token, created_at) VALUES (7, 1, 1, '2026-05-01', #{quote(rules)}, '2026-04-30', #{quote(handed_over: 3, held_out: 1)}, 'done', 'k', NOW())")
    run("INSERT INTO watches (kind, settings, created_at) VALUES ('comeback_above', '{}', NOW())")
  end

  it "is noticed by processes of a later version, which do not work with it" do
    expect { described_class.check }.to raise_error(EstrelServer::Error, "the tables are those of an earlier version; run bin/estrel setup")
    migrate
    expect { described_class.check }.not_to raise_error
    run("INSERT INTO schema_migrations (version) VALUES ('20991231000001')")
    EstrelServer::Log.output = said = StringIO.new
    described_class.check
    expect(said.string).to include("those of a later version")
  ensure
    EstrelServer::Log.output = nil
  end

  it "renames tables and columns, and rewrites definitions, exports and runs as they are read now" do
    fill
    steps = File.join(EstrelServer.settings.exports_directory, "steps-of-run-7.arrow")
    FileUtils.mkdir_p(File.dirname(steps))
    Polars::DataFrame.new({ "profile_id" => [1, 2, 3], "step" => %w[handed_over held_out listed] }).write_ipc(steps, compression: "uncompressed")
    migrate
    definition = json("SELECT definition FROM audience_versions")
    expect(definition["all"]).to eq(
      [{ "profile_type" => { "is" => ["visitor"] } },
       { "any" => [{ "not" => { "lifecycle" => { "is" => %w[never_active dormant], "reactivated" => true, "rule_set" => { "id" => 1 } } } }] },
       { "campaign" => { "was" => "reactivated", "from" => ["never_active"], "window" => { "ever" => true } } },
       { "campaign" => { "streak" => { "of" => "longest", "at_least" => 2 }, "window" => { "ever" => true } } },
       { "did" => { "event" => "kind", "count" => { "at_least" => 1, "of" => "events" }, "window" => { "ever" => true } } }]
    )
    expect { Estrel::Audience::Document.new(definition).checked }.not_to raise_error
    expect(ActiveRecord::Base.connection.select_rows("SELECT digest, sentence FROM audience_versions").first)
      .to eq([Digest::SHA256.hexdigest(JSON.generate(definition)), "never active people"])
    expect(json("SELECT rules FROM exports")["columns"].map { |row| row["take"] }).to eq(%w[profile_type inactive_days attribute:kind])
    expect(json("SELECT waterfall FROM export_runs WHERE received_by = '2026-04-30'")).to eq("exported" => 3, "holdout" => 1, "standing_holdout" => 0)
    expect(ActiveRecord::Base.connection.select_values("SELECT kind FROM alert_rules")).to eq(["reactivation_above"])
    expect(Polars.read_ipc(steps, memory_map: false)["step"].to_a).to eq(%w[exported holdout listed])
  end
end
