# frozen_string_literal: true

require_relative "server_helper"
require "zlib"

# A part of the demo as an earlier version has left it, with what that version answered; and tables as a later version may
# leave them, since whoever goes back to the version before keeps them.
RSpec.describe "a database of another version" do
  # By day; every fiftieth person of the demo, and some of every kind of event.
  let(:dumps) { Dir[File.join(__dir__, "fixtures/upgrade/*.sql.gz")].sort }
  let(:settings) { EstrelServer::Settings.from({ "ESTREL_VAR" => File.join(ROOT, "var/upgraded"), "APP_ENV" => "test" }) }
  let(:database) { EstrelServer::Database.new(settings) }
  let(:pid) { database.start }
  let(:ledger) { Estrel::Ledger.new(settings.ledger_directory) }

  let!(:usual) { EstrelServer.settings }

  before do
    FileUtils.rm_rf(settings.var)
    pid
    allow(EstrelServer).to receive(:settings).and_return(settings)
    allow(EstrelServer::Figures).to receive_messages(count: nil, time: nil) # they stay where they are
  end

  after do
    EstrelServer::Database::Store.connect(usual)
    EstrelServer::Record.descendants.each(&:reset_column_information)
    database.stop(pid)
  end

  def load(path)
    EstrelServer::BackingUp::Programs.new(settings).load { |input| Zlib::GzipReader.open(path) { |sql| IO.copy_stream(sql, input) } }
    EstrelServer::Database::Store.migrate(settings)
    EstrelServer::LedgerBuilding::Builder.new(ledger, settings).refresh
  end

  def rules(name)
    row = EstrelServer::RuleSet.find_by!(name: name)
    EstrelServer::Answers::Asking.rule_set(row.rules_json, ledger.current.catalogue, of: row)
  end

  # States, sizes of audiences, and rows, as they are told now.
  def answers
    dates = %w[2026-01-31 2026-05-31 2026-09-30].map { |day| Date.iso8601(day) }
    states = dates.to_h { |date| [date.iso8601, Estrel::Lifecycle.new(ledger.current, rules("Riders")).counts(date, date).transform_values(&:first).transform_keys(&:to_s)] }
    sizes = EstrelServer::Audience.kept.to_h do |audience|
      question = EstrelServer::Answers::Question.new(ledger.current, as_of: dates.last, rule_set: rules("Riders"), limited: false, settings: settings)
      [audience.name, question.evaluator.size(EstrelServer::Answers::Asking.definition(audience.current.definition, ledger.current.catalogue))]
    end
    rows = %w[profiles identifiers events attribute_values consents audiences rule_sets exports destinations annotations saved_analyses pages groupings].to_h { |table| [table, EstrelServer::Record.connection.select_value("SELECT COUNT(*) FROM #{table}")] }
    { "states" => states, "sizes" => sizes, "rows" => rows }
  end

  it "is brought up to date with everything in it" do
    (Checks.all? ? dumps : dumps.last(1)).each do |dump|
      load(dump)
      expect(answers).to eq(JSON.parse(File.read(dump.sub(".sql.gz", ".json")))), dump
    end
  end

  it "is worked with though it has tables and columns of which this version knows nothing" do
    load(dumps.last)
    before = answers
    connection = EstrelServer::Record.connection
    ActiveRecord::Base.establish_connection(database.owner_connection)
    (connection.tables - %w[schema_migrations ar_internal_metadata]).each { |table| ActiveRecord::Base.connection.execute("ALTER TABLE `#{table}` ADD COLUMN of_a_later_version VARCHAR(20), ADD COLUMN also INT NOT NULL DEFAULT 3") }
    ActiveRecord::Base.connection.execute("CREATE TABLE later_things (id INT PRIMARY KEY)")
    ActiveRecord::Base.establish_connection(database.connection)
    EstrelServer::Record.descendants.each(&:reset_column_information)
    import(Array.new(3) { |n| event("later-#{n}", type: "bike_unlocked", subject: "customer:later", time: "2026-09-30T08:00:00Z", data: { "n" => n }) }.join("\n"))
    import("customer,email,plan,time\nlater,l@b.example,monthly,2026-09-01\n", kind: "profiles", mapping: { "time_zone" => "UTC" })
    EstrelServer::Annotation.create!(date: "2026-05-01", text: "later")
    EstrelServer::LedgerBuilding::Builder.new(ledger, settings).refresh
    EstrelServer::LedgerBuilding::Builder.new(ledger, settings).refresh(rebuild: true)
    after = answers
    expect(after["rows"]).to include("profiles" => before["rows"]["profiles"] + 1, "events" => before["rows"]["events"] + 3, "annotations" => before["rows"]["annotations"] + 1)
    expect(after["states"]["2026-09-30"]["new"]).to eq(before["states"]["2026-09-30"]["new"] + 1)
    expect(after["sizes"]).to eq(before["sizes"])
  end
end
