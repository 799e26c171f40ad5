# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe "what is kept on disk and in the database" do
  include ApiHelper

  let(:settings) { EstrelServer.settings }

  def new_export
    everybody = call(:post, "/audiences", { name: "Everybody", definition: { "all" => [] } })
    call(:post, "/exports", { name: "All", audience_id: everybody["id"], as_of: "2026-05-20", rules: { columns: [{ take: "identifier:customer" }] } })["id"]
  end

  def run_of(export)
    run = call(:post, "/exports/#{export}/runs", { as_of: "2026-05-20" })["id"]
    work_off
    run
  end

  def open_to_others?(path)
    File.stat(path).mode.anybits?(0o077)
  rescue Errno::ENOENT
    false # gone since it was listed
  end

  def file_of(run) = EstrelServer::ExportRun.find(run).files.path

  it "goes after so many days, and when a person in it is erased, and the log says so" do
    fill
    exports = new_export
    old = run_of(exports)
    erased = run_of(exports)
    expect([old, erased].map { |run| File.read(file_of(run)).lines.size }).to eq([7, 7])
    EstrelServer::ExportRun.find(old).update!(finished_at: (settings.export_days + 1).days.ago)
    EstrelServer::Exporting::Retention.new.clear_old
    expect([old, erased].map { |run| File.exist?(file_of(run)) }).to eq([false, true])
    person = EstrelServer::Identifier.find_by!(value: "3").profile_id
    removed = call(:post, "/people/#{person}/erase", { confirm: "erase this person", reason: "asked to" })["removed"]
    expect(removed["exported_files_of_runs"]).to contain_exactly(old, erased)
    expect(File.exist?(file_of(erased))).to be(false)
    expect(EstrelServer::ExportRun.find(erased).files.ids("exported").to_a).not_to include(person)
    expect(call(:get, "/runs/#{erased}/file")["detail"]).to include("a person in it was erased")
    expect(call(:get, "/runs/#{old}")["file_removed_because"]).to eq("older than #{settings.export_days} days")
    expect(call(:get, "/log")["entries"].map { |row| row["about"] }).to include("run #{erased}: a person in it was erased", "run #{old}: older than #{settings.export_days} days")
  end

  it "keeps an uploaded file no longer than it is read, whatever comes of that" do
    sign_in
    kept = lambda do |content, **changes|
      upload = Rack::Test::UploadedFile.new(StringIO.new(content), "text/plain", original_filename: "x.csv")
      header("Host", "127.0.0.1:4270")
      post("/api/imports", { "file" => upload, "kind" => "events" })
      id = JSON.parse(last_response.body)["id"]
      EstrelServer::Import.find(id).update!(**changes) if changes.any?
      call(:post, "/imports/#{id}/cancel") if changes.empty? && content.empty?
      work_off
      [EstrelServer::Import.find(id).state, Dir.children(settings.uploads_directory)]
    end
    expect([kept.call(event("1")), kept.call("a,a\n1,2\n"), kept.call(""), kept.call(event("2"), starts: 3), kept.call(event("3"), cancel_requested: true)])
      .to eq([["done", []], ["failed", []], ["cancelled", []], ["failed", []], ["cancelled", []]])
    expect(EstrelServer::Import.find_by!(starts: 3).error).to include("crashed 3 times")
  end

  it "gives no spreadsheet a formula among rejected rows" do
    read = import("id,type,subject,time\n=HYPERLINK(1),x,nobody,2026-05-01\n+1,x,nobody,2026-05-01\n")
    expect(call(:get, "/imports/#{read.id}/rejects.csv").lines.drop(1).map { |line| line.split(",", 3).last[0, 3] }).to eq(["\"'=", "\"'+"])
  end

  it "is for the user who runs Estrel alone" do
    stack = CrashStack.new(File.join(ROOT, "var/files"))
    stack.start(:collector)
    stack.restart([:worker, 1])
    stack.estrel("account", "add", "x@estrel.example")
    open = Dir.glob("#{ROOT}/var/files/**/*", File::FNM_DOTMATCH).select { |path| !File.socket?(path) && File.basename(path) != "log" && open_to_others?(path) }
    expect(open).to eq([])
    ["DROP TRIGGER audit_entries_stay_update", "DROP TABLE audit_entries", "ALTER TABLE audit_entries ADD COLUMN x INT", "TRUNCATE TABLE audit_entries", "DELETE FROM audit_entries",
     "UPDATE audit_entries SET who = 'nobody'", "CREATE TRIGGER t BEFORE INSERT ON audit_entries FOR EACH ROW SET NEW.who = 'x'", "RENAME TABLE audit_entries TO x",
     "GRANT ALL ON estrel.* TO 'estrel'@'localhost'"].each do |statement|
      expect { stack.query(statement) }.to raise_error(Trilogy::Error, /denied|only added to/), statement
    end
    expect(stack.query("SELECT COUNT(*) FROM audit_entries").first.first).to be_positive
  ensure
    stack&.stop
  end
end
