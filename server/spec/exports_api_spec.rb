# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::API::ExportsEndpoint do
  include ApiHelper

  let(:everybody) { call(:post, "/audiences", { name: "Everybody", definition: { "all" => [] } }) }

  before { fill }

  def rules(columns: %w[identifier:customer identifier:email attribute:plan state inactive_days], **changes)
    { columns: columns.map { |take| { take: take } }, **changes }
  end

  def new_export(name = "Weekly", **changes)
    given = { name: name, audience_id: everybody["id"], rules: rules(**changes.delete(:rules).to_h), as_of: "2026-05-20", **changes }
    call(:post, "/exports", given)
  end

  def carry_out(export, as_of = "2026-05-20", **more)
    run = call(:post, "/exports/#{export["id"]}/runs", { as_of: as_of, **more })
    work_off
    call(:get, "/runs/#{run["id"]}")
  end

  # What a run of long ago did long ago.
  def exported_at(id, instant) = EstrelServer::ExportRun.find(id).update!(exported_at: instant)

  def file(run) = call(:get, "/runs/#{run["id"]}/file")

  it "exports an audience as a file that says what the core says, with a manifest beside it" do
    done = carry_out(new_export)
    expect(done).to include("state" => "done", "row_count" => 6, "as_of" => "2026-05-20", "version" => 1, "attempts" => 1)
    expect(Digest::SHA256.hexdigest(file(done))).to eq(done["sha256"])
    rule_set = EstrelServer::Answers::Asking.rule_set(EstrelServer::RuleSet.current.rules_json, EstrelServer.ledger.current.catalogue)
    states = Estrel::Lifecycle.new(EstrelServer.ledger.current, rule_set).states(Date.new(2026, 5, 20))
    expect(CSV.parse(file(done), headers: true).map { |row| [row["state"], row["inactive_days"].to_i] }).to eq(states.select(%w[state inactive_days]).rows)
    expect(file(done)).to start_with("customer,email,plan,state,inactive_days\r\n1,'=cmd@b.example,monthly,")
    manifest = JSON.parse(call(:get, "/runs/#{done["id"]}/manifest").then { |json| json.is_a?(Hash) ? JSON.generate(json) : json })
    expect(manifest).to include("sha256" => done["sha256"], "rows" => 6, "as_of" => "2026-05-20", "people" => done["people"])
    expect(manifest["audience"]).to include("sentence" => "All people", "version" => 1)
    expect(file(carry_out(call(:get, "/exports")["exports"].first))).to eq(file(done))
  end

  # Every second person rides often, the others seldom; all pause now and then, or stop.
  def ride(people, days)
    random = Random.new(11)
    lines = (1..people).flat_map do |person|
      day = random.rand(30)
      ridden = []
      while day < days
        ridden << day
        day += 1 + random.rand(person.even? ? 6 : 50) + (random.rand < 0.12 ? 30 + random.rand(90) : 0)
        break if random.rand < 0.03
      end
      ridden.map { |one| event("r#{person}-#{one}", subject: "customer:r#{person}", time: (Time.utc(2025, 6, 1, 9) + (one * 86_400)).iso8601, data: {}) }
    end
    import(lines.join("\n"))
    refresh
  end

  it "has chances as columns, learned once a day and kept, so that a run can be told again" do
    columns = [{ take: "identifier:customer" }, { take: "chance", of: "lapse", days: 30 }, { take: "chance", of: "come_back", days: 30, as: "back" }]
    try = -> { call(:post, "/exports/try", { name: "", audience_id: everybody["id"], rules: { columns: columns }, as_of: "2026-05-20" }) }
    expect(try.call).to include("status" => 422, "detail" => /Propensity is not available yet/)
    ride(900, 353)
    export = call(:post, "/exports", { name: "Likely", audience_id: everybody["id"], rules: { columns: columns }, as_of: "2026-05-20" })
    done = carry_out(export)
    expect(done["error"]).to be_nil
    rows = CSV.parse(file(done), headers: true)
    expect(rows.headers).to eq(%w[customer chance_to_lapse_within_30_days back])
    expect(rows.map { |row| row.fields.drop(1).compact.size }.tally.keys).to contain_exactly(1)
    kept = EstrelServer::ChanceModel.order(:kind).to_a
    expect(kept.map { |row| [row.kind, row.days, row.as_of.iso8601] }).to eq([["come_back", 30, "2026-05-20"], ["lapse", 30, "2026-05-20"]])
    manifest = EstrelServer::ExportRun.find(done["id"]).manifest.then { |json| json.is_a?(String) ? JSON.parse(json) : json }
    expect(manifest["models"]).to match_array(kept.map(&:model))
    answer = call(:post, "/analyses/chance", { of: "lapse", within_days: 30, as_of: "2026-05-20" })
    expect(answer["picture"]["model"]).to eq(kept.last.model)
    ride(2, 340)
    again = CSV.parse(file(carry_out(export)), headers: true)
    expect(again.by_col["back"].compact.size).to be_within(2).of(rows.by_col["back"].compact.size)
    expect(EstrelServer::ChanceModel.order(:kind).map(&:attributes)).to eq(kept.map(&:attributes))
    listed = call(:get, "/people?#{URI.encode_www_form(as_of: "2026-05-20", columns: JSON.generate(columns.drop(1)), order: "column:0", per_page: 3)}")
    expect(listed["rows"].map { |person| person["values"].first }).to eq(rows.by_col["chance_to_lapse_within_30_days"].compact.map(&:to_f).max(3))
  end

  it "tells before and after what becomes of everybody, and opens each step into its people" do
    list = call(:post, "/contact-lists", { name: "Do not contact", kind: "customer" })
    header("Content-Type", "text/plain")
    post("/api/contact-lists/#{list["id"]}/values", "3\n#{OpenSSL::Digest.hexdigest("SHA256", "4")}\n\n3\n")
    expect(JSON.parse(last_response.body)).to include("read" => 3, "added" => 2, "size" => 2)
    holdout = call(:post, "/holdouts", { name: "Summer", number: 1 })
    given = { rules: { lists: [list["id"]], holdout: holdout["id"] } }
    tried = call(:post, "/exports/try", { name: "", audience_id: everybody["id"], rules: rules(**given[:rules]), as_of: "2026-05-20" })
    expect(tried["people"]).to include("audience" => 6, "listed" => 2, "holdout" => 1, "exported" => 3)
    expect(tried["rows"].size).to eq(3)
    expect(call(:get, "/runs")["runs"]).to eq([])
    export = new_export(**given)
    run = carry_out(export)
    expect(run["people"]).to eq(tried["people"])
    listed = call(:get, "/runs/#{run["id"]}/people?step=listed")
    expect(listed["rows"].map { |row| row["identifiers"].first["value"] }).to eq(%w[3 4])
    before = call(:post, "/exports/try/people", { export: export["id"], step: "listed", as_of: "2026-05-20" })
    expect(before["rows"]).to eq(listed["rows"])
    expect(call(:get, "/holdouts")["holdouts"].first).to include("settled" => true)
    held = ->(found) { call(:get, "/runs/#{found["id"]}/people?step=holdout")["rows"].map { |row| row["id"] } }
    # Another export that shares the holdout, of other people besides.
    other = carry_out(new_export("Other", rules: { holdout: holdout["id"] }), "2026-06-20")
    expect(held.call(other)).to include(*held.call(run))
    expect(call(:delete, "/audiences/#{everybody["id"]}")["errors"]).to include({ "place" => "Weekly", "message" => "an export of it" })
    expect(call(:delete, "/contact-lists/#{list["id"]}")["detail"]).to include("Used by exports Weekly")
  end

  it "counts those in the holdout as messaged when those exported are, so that the two stay alike" do
    holdout = call(:post, "/holdouts", { name: "Summer", number: 2 })
    export = new_export(rules: { holdout: holdout["id"], messaged: { events: [], days: 10, runs: true } })
    # The real days of runs count, whatever they are as of.
    runs = %w[2026-05-20 2026-05-20 2026-05-22].each_with_index.map do |day, index|
      EstrelServer::ExportRun.find_each { |run| exported_at(run.id, (10 - (index == 1 ? 1 : 0)).days.ago.utc.iso8601) }
      carry_out(export, day)["people"].slice("messaged", "holdout", "exported")
    end
    expect(runs).to eq([{ "messaged" => 0, "holdout" => 2, "exported" => 4 }, { "messaged" => 6, "holdout" => 0, "exported" => 0 }, { "messaged" => 0, "holdout" => 2, "exported" => 4 }])
    EstrelServer::ExportRun.find_each { |run| exported_at(run.id, "#{run.as_of}T18:00:00Z") }
    rode = { event: "ride_ended", measure: "people" }
    expect(analyse("export-effect", run: 1, days: 5, metric: rode, as_of: "2026-05-22")["finding"]).to match(/\APreliminary until the end of 25 May 2026:/)
    # The two runs that reached anybody reached the same six, so over all there are six.
    plan = analyse("export-effect", export: export["id"], days: 5, metric: rode, as_of: "2026-06-30")
    expect(plan["finding"]).to start_with("2 runs, each person from their first run on: Not enough people for a verdict (minimum 50):")
    expect(plan["picture"]["groups"].map { |group| group["people"] }).to eq([4, 2])
    expect(plan["caveats"].join).to include("1 run without a holdout is not counted")
    expect(analyse("export-effect", export: 99, metric: rode)).to be_refused(422, /no export has the number 99/i)
  end

  def erased(profile) = EstrelServer::People::Eraser.new(EstrelServer::Profile.find(profile), "asked")

  it "exports nobody who was erased since the ledger was written, or while it is written" do
    export = new_export
    ids = EstrelServer::Profile.order(:id).ids
    erased(ids[0]).erase
    expect(carry_out(export)["people"]).to include("audience" => 5, "exported" => 5)
    erase = -> { erased(ids[1]).erase }
    allow_any_instance_of(EstrelServer::Exporting::RunFiles).to receive(:write_rows).and_wrap_original do |original, *args| # rubocop:disable RSpec/AnyInstance -- made by the run
      path = original.call(*args)
      erase&.call
      erase = nil
      path
    end
    done = carry_out(export)
    expect(done).to include("state" => "done", "row_count" => 4)
    expect(file(done).lines.size).to eq(5)
    steps = Dir[File.join(EstrelServer.settings.exports_directory, "steps-*")].flat_map { |path| Polars.read_ipc(path, memory_map: false)["profile_id"].to_a }
    expect(steps & ids.first(2)).to eq([])
  end

  it "counts neither group as messaged by runs that are no messages and that no messages followed" do
    import(event("m0", type: "message_received", subject: "customer:1", time: "2026-04-01T10:00:00Z"))
    refresh
    holdout = call(:post, "/holdouts", { name: "Summer", number: 2 })
    export = new_export(rules: { holdout: holdout["id"], messaged: { events: ["message_received"], days: 10, runs: false } })
    held = ->(run) { call(:get, "/runs/#{run["id"]}/people?step=holdout")["rows"].map { |row| row["id"] } }
    first, second = Array.new(2) { carry_out(export) }
    expect([first, second].map { |run| run["people"].slice("messaged", "holdout", "exported") }).to eq([{ "messaged" => 0, "holdout" => 2, "exported" => 4 }] * 2)
    # As soon as somebody exported has had a message, those held count as if they had.
    got = EstrelServer::ExportRun.find(first["id"]).files.ids("exported")[0]
    name = EstrelServer::Identifier.find_by(profile_id: got).value
    exported_at(first["id"], "2026-05-15T10:00:00Z")
    exported_at(second["id"], "2026-05-15T10:00:00Z")
    import(event("m1", type: "message_received", subject: "customer:#{name}", time: "2026-05-16T10:00:00Z"))
    refresh
    allow(Time).to receive(:now).and_return(Time.utc(2026, 5, 20, 12))
    third = call(:post, "/exports/try", { export: export["id"], as_of: "2026-05-20" })["people"]
    expect(third.slice("messaged", "holdout")).to eq({ "messaged" => held.call(first).size + 1, "holdout" => 0 })
  end

  it "exports only who entered and who left since the last run, where that is asked for" do
    active = call(:post, "/audiences", { name: "Riders", definition: { "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 }, "window" => { "last_days" => 5 } } } })
    export = new_export("Changes", audience_id: active["id"], rules: { columns: %w[identifier:customer], mode: "changes" })
    members = ->(date) { EstrelServer::Answers::Question.new(EstrelServer.ledger.current, as_of: Date.parse(date), rule_set: nil).evaluator.members(EstrelServer::Answers::Asking.definition(active["definition"], EstrelServer.ledger.current.catalogue)).to_a }
    dates = %w[2026-05-08 2026-05-22 2026-06-20]
    before = []
    dates.each do |date|
      run = carry_out(export, date)
      told = CSV.parse(file(run), headers: true).map { |row| [row["change"], row["customer"].to_i] }
      now = members.call(date)
      expect(told).to match_array((now - before).map { |id| ["entered", id] } + (before - now).map { |id| ["left", id] })
      expect(run["people"]).to include("entered" => (now - before).size, "left" => (before - now).size, "exported" => now.size)
      before = now
    end
  end

  it "waits for a person's word where the number exported has changed by more than the export allows" do
    export = new_export(rules: { guard: 0.2 })
    expect(carry_out(export)["state"]).to eq("done")
    none = call(:post, "/audiences", { name: "Nobody", definition: { "not" => { "all" => [] } } })
    expect(call(:put, "/exports/#{export["id"]}", { name: "Weekly", audience_id: none["id"], rules: rules(guard: 0.2), updated_at: "2020-01-01T00:00:00Z" })).to be_refused(409, /Someone else changed this export/)
    call(:put, "/exports/#{export["id"]}", { name: "Weekly", audience_id: none["id"], rules: rules(guard: 0.2) })
    waiting = carry_out(export)
    expect(waiting).to include("state" => "waiting", "waits_because" => "0 people would be exported now, 6 last time. Approve the run or cancel it.")
    expect(call(:get, "/alerts")["alerts"]).to match([include("run" => waiting["id"], "text" => "Weekly: #{waiting["waits_because"]}", "read" => false)])
    expect(call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })["detail"]).to match(/already running/)
    call(:post, "/runs/#{waiting["id"]}/approve")
    expect(call(:post, "/runs/#{waiting["id"]}/approve")).to be_refused(409, /not waiting for approval/)
    work_off
    expect(call(:get, "/runs/#{waiting["id"]}")).to include("state" => "done", "row_count" => 0)
    again = call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    expect(call(:post, "/runs/#{again["id"]}/cancel")).to include("state" => "cancelled")
    work_off
    expect(call(:get, "/runs/#{again["id"]}")["state"]).to eq("cancelled")
  end

  it "puts the whole file into a folder or nothing, and says what went wrong" do
    folder = call(:post, "/destinations", { name: "Till", kind: "folder", settings: { folder: "till" } })
    directory = File.join(EstrelServer.settings.outbox_directory, "till")
    export = new_export("Till", destination_id: folder["id"], rules: { file: { format: "jsonl", gzip: true } })
    run = carry_out(export)
    expect(Dir.children(directory)).to contain_exactly(run["file_name"], "#{run["file_name"]}.manifest.json")
    expect(Zlib.gunzip(File.binread(File.join(directory, run["file_name"]))).lines.map { |line| JSON.parse(line)["customer"] }).to eq(%w[1 2 3 4 5 6])
    FileUtils.rm_rf(directory)
    File.write(directory, "in the way")
    failed = carry_out(export)
    expect(failed).to include("state" => "failed", "error" => match(/exist|directory/i))
    expect(call(:get, "/alerts")["alerts"].first["text"]).to start_with("Till: Run failed; nothing was exported. ")
    expect(call(:get, "/runs/#{failed["id"]}/file")).to be_refused(404, /not found/i)
    EstrelServer::AttributeDefinition.where(name: "plan").update_all(name: "tariff")
    EstrelServer::Workspace.catalogue_changed
    FileUtils.rm_rf([directory, EstrelServer.settings.ledger_directory])
    refresh
    expect(call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })["detail"]).to match(/no column "attribute:plan"/)
  ensure
    FileUtils.rm_rf(directory)
  end

  it "carries a run out once, although its worker was killed in the middle" do
    export = new_export
    rule_set = EstrelServer::Answers::Asking.rule_set(EstrelServer::RuleSet.current.rules_json, EstrelServer.ledger.current.catalogue)
    run = EstrelServer::ExportRun.start(EstrelServer::Export.find(export["id"]), as_of: Date.new(2026, 5, 20), rule_set: rule_set)
    runner = EstrelServer::Exporting::Runner.new(run)
    allow(runner).to receive(:doubtful).and_raise(SignalException, "KILL")
    expect { runner.run }.to raise_error(SignalException)
    expect(run.reload).to have_attributes(state: "running", attempts: 1)
    run.update!(rules: run.rules.merge("columns" => %w[identifier:customer]))
    work_off
    expect(run.reload).to have_attributes(state: "done", attempts: 2, row_count: 6, under_way: nil)
    EstrelServer::Exporting::Runner.new(run).run
    expect(run.reload.attempts).to eq(2)
  end

  it "measures a run by what those exported and the holdout did after it" do
    holdout = call(:post, "/holdouts", { name: "Half", share: 0.5 })
    run = carry_out(new_export(rules: { holdout: holdout["id"] }), "2026-05-10")
    rode = { event: "ride_ended", measure: "people" }
    expect(Time.iso8601(call(:get, "/runs/#{run["id"]}")["exported_at"])).to be_within(60).of(Time.now)
    expect(analyse("export-effect", run: run["id"], metric: rode, as_of: "2026-06-01")["finding"]).to start_with("No result yet: this run exported on")
    exported_at(run["id"], "2026-05-10T20:00:00Z")
    found = picture("export-effect", run: run["id"], metric: rode, days: 10, as_of: "2026-06-01")
    # The n-th of the six rode every five days, up to n + 1 times.
    riders = (1..6).select { |person| (0..person).any? { |ride| (1 + (ride * 5)).between?(11, 20) } }
    groups = %w[exported holdout].map { |step| call(:get, "/runs/#{run["id"]}/people?step=#{step}")["rows"].map { |row| row["identifiers"].first["value"].to_i } }
    expect(found["groups"].map { |group| group.values_at("people", "some") }).to eq(groups.map { |ids| [ids.size, (ids & riders).size] })
    expect(found).to include("from" => "2026-05-10", "to" => "2026-05-20", "complete" => true)
    { { metric: { **rode, measure: "fame" } } => /"Measure" must be one of/, { metric: { event: "rode" } } => /no event type/, { days: 0 } => /"Days" must be/, { size: 3 } => /"Size" must be/,
      { better: "good" } => /"Better" must be/, { run: 999_999 } => /Run \d+ does not exist/ }.each do |wrong, message|
      expect(analyse("export-effect", run: run["id"], **wrong)).to include("status" => 422, "detail" => match(message))
    end
  end

  it "counts whoever has become part of another profile since as that one, and not at all where the two were parted" do
    import(%w[phone tablet desk].map { |device| event("v-#{device}", subject: "visitor:#{device}", time: "2026-05-02T10:00:00Z") }.join("\n"))
    refresh
    holdout = call(:post, "/holdouts", { name: "A third", share: 0.34 })
    run = carry_out(new_export(rules: { columns: %w[identifier:customer], holdout: holdout["id"] }), "2026-05-10")
    exported_at(run["id"], "2026-05-10T20:00:00Z")
    import(%w[phone tablet desk].each_with_index.map { |device, at| event("l-#{device}", type: "estrel.link", subject: "visitor:#{device}", time: "2026-05-03T10:00:00Z", data: { "same_as" => "customer:#{at + 1}" }) }.join("\n"))
    refresh
    into = EstrelServer::Merge.pluck(:from_profile_id, :into_profile_id).to_h
    kept = EstrelServer::ExportRun.find(run["id"]).files
    groups = %w[exported holdout].map { |step| kept.ids(step).to_a.map { |id| into.fetch(id, id) }.uniq }
    told = analyse("export-effect", run: run["id"], metric: { event: "ride_ended", measure: "people" }, days: 10, as_of: "2026-06-01")
    expect([into.size, told["caveats"]]).to match([3, include("3 people were merged into another profile since and count as that profile.")])
    expect(told["picture"]["groups"].map { |group| group["people"] }).to eq([(groups[0] - groups[1]).size, (groups[1] - groups[0]).size])
  end

  it "carries exports out when their time has come: once after a downtime, never twice" do
    export = new_export(rules: { schedule: { every: "day", at: "07:30" } })
    scheduler = EstrelServer::Workers::Scheduler.new
    due = Time.iso8601(export["next_run_at"])
    expect(due.getlocal("+00:00").min).to eq(30)
    micros = ->(time) { (time.to_r * 1_000_000).to_i }
    expect(scheduler.tick(micros.call(due) - 1)).to eq([])
    first = scheduler.tick(micros.call(due))
    expect(first.map { |run| run.attributes.slice("started_by", "note") }).to eq([{ "started_by" => "schedule", "note" => "" }])
    # A clock put back, and another scheduler beside.
    expect([scheduler.tick(micros.call(due)), EstrelServer::Workers::Scheduler.new.tick(micros.call(due) - 3_600_000_000)]).to eq([[], []])
    work_off
    late = scheduler.tick(micros.call(due + (3 * 86_400)))
    expect(late.map(&:note)).to eq(["2 scheduled runs were missed before this one"])
    # One that is still under way when the next time comes is left alone.
    expect(scheduler.tick(micros.call(due + (4 * 86_400)))).to eq([])
    work_off
    expect(call(:get, "/runs")["runs"].map { |run| run["state"] }).to eq(%w[done done])
    expect(call(:put, "/exports/#{export["id"]}", { name: "Weekly", audience_id: everybody["id"], rules: rules })["next_run_at"]).to be_nil
  end

  it "carries an export out after a refresh when others would be exported than last time" do
    export = new_export(rules: { schedule: { every: "refresh" } })
    expect(export["next_run_at"]).to be_nil
    micros = 1_000_000 * Time.utc(2026, 5, 26).to_i
    scheduler = EstrelServer::Workers::Scheduler.new
    expect(scheduler.tick(micros).map(&:note)).to eq(["after a refresh"])
    work_off
    expect(scheduler.tick(micros + 120_000_000)).to eq([])
    # A refresh that changes nobody's fate, and one that does.
    import(event("more", subject: "customer:1", time: "2026-05-25T10:00:00Z", data: {}))
    refresh
    expect(scheduler.tick(micros + 240_000_000)).to eq([])
    import(event("new", subject: "customer:77", time: "2026-05-25T11:00:00Z", data: {}))
    refresh
    expect(scheduler.tick(micros + 250_000_000)).to eq([])
    expect(scheduler.tick(micros + 360_000_000).size).to eq(1)
    work_off
    expect(call(:get, "/runs")["runs"].map { |run| [run["state"], run["people"]["exported"]] }).to eq([["done", 7], ["done", 6]])
  end

  it "leaves nothing half-written where the disk is full" do
    export = new_export
    before = trap("XFSZ", "IGNORE")
    limits = Process.getrlimit(:FSIZE)
    run = call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    Process.setrlimit(:FSIZE, 64, limits[1])
    work_off
    Process.setrlimit(:FSIZE, *limits)
    expect(call(:get, "/runs/#{run["id"]}")).to include("state" => "failed", "file_name" => nil)
    expect(Dir[File.join(EstrelServer.settings.exports_directory, "*")]).to eq([])
    expect(carry_out(export)).to include("state" => "done", "row_count" => 6)
  ensure
    Process.setrlimit(:FSIZE, *limits) if limits
    trap("XFSZ", before) if before
  end

  it "refuses exports that make no sense, and says what to do" do
    [[{ audience_id: 0 }, /Choose an audience/], [{ version: 7 }, /no such version/], [{ destination_id: 9 }, /no such destination/], [{ name: " " }, /name/i],
     [{ rules: { columns: ["attribute:plam"] } }, /did you mean "attribute:plan"/], [{ rules: { columns: [] } }, /at least one/], [{ rules: { channel: "fax" } }, /channel must be one of/],
     [{ rules: { holdout: 5 } }, /holdout of this export does not exist/], [{ rules: { lists: [5] } }, /list that this export excludes does not exist/], [{ rules: { messaged: { events: ["rode"], days: 3 } } }, /no event type "rode"/],
     [{ rules: { messaged: { events: ["ride_ended"], days: 0 } } }, /whole number of days/], [{ rules: { file: { format: "xls" } } }, /format must be one of/], [{ rules: { mode: "some" } }, /mode must be one of/],
     [{ rules: { guard: -1 } }, /requires approval must be more than 0%/], [{ rules: { schedule: { every: "day", at: "25:00" } } }, /like 07:30/], [{ rules: { colour: 1 } }, /no setting "colour"/]].each do |change, message|
      answer = new_export("Odd", **change)
      expect([answer["status"], answer["detail"]]).to match([422, message]), change.inspect
    end
    new_export
    expect(new_export["detail"]).to match(/taken by another export/)
    { { name: "x", kind: "folder", settings: { folder: "../etc" } } => /Folder may have letters/,
      { name: "", kind: "folder", settings: { folder: "a" } } => /Name can't be blank/ }.each { |given, reason| expect(call(:post, "/destinations", given)).to be_refused(422, reason) }
    { { name: "x" } => /the share or the number/, { name: "x", share: 2 } => /Share must be in 0\.\.1/, { name: "x", share: 0.1, number: 3 } => /the share or the number/,
      { name: "x", number: -1 } => /Number must be in/ }.each { |given, reason| expect(call(:post, "/holdouts", given)).to be_refused(422, reason) }
    expect(call(:get, "/runs/99")).to be_refused(404, /not found/i)
  end
end
