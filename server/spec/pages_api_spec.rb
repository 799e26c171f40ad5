# frozen_string_literal: true

require_relative "server_helper"

# Pages of saved analyses, figures and text: written, read as a file, talked about and sent.
RSpec.describe "the API of pages" do
  include ApiHelper

  let(:asks) { { series: [{ event: "ride_ended" }], measure: "people", from: "-10", step: "day", audiences: [] } }
  let(:folder) { EstrelServer::Destination.create!(name: "Board", kind: "folder", settings: { "folder" => "board" }) }

  def saved(name = "Rides", **more) = call(:post, "/saved-analyses", { name: name, analysis: "trends", question: { "event" => "ride_ended", "from" => "-10" }, asks: asks, **more })

  def write(name, *blocks, **more) = call(:post, "/pages", { name: name, blocks: blocks, **more })

  def document(page, as_of = "2026-05-20")
    status, html = raw(:get, "/pages/#{page["id"]}/document.html?as_of=#{as_of}")
    expect(status).to eq(200), html
    html
  end

  def detail(verb, path, body = nil) = call(verb, path, body).then { |answer| [last_response.status, [answer["detail"], *answer["errors"]&.map { |one| one["message"] }].join(" ")] }

  it "writes headings, words, analyses and audiences into one file, with the figures the API tells, and nothing that is not escaped" do
    fill
    call(:post, "/rule-sets", { name: "Default", activity: ["ride_ended"], new_for: 1, active_within: 2, churned_after: 3 })
    audience = call(:post, "/audiences", { name: "Riders <b>", definition: { "did" => { "event" => "ride_ended" } } })
    page = write("Monday <script>", { kind: "heading", text: "Rides & more" }, { kind: "text", text: "First <i>\n\nSecond" },
                 { kind: "analysis", id: saved["id"] }, { kind: "analysis", id: saved("Lines")["id"], drawn: { table: "lines", figure: "total" }, table: false },
                 { kind: "audience", id: audience["id"] })
    html = document(page)
    told = call(:post, "/analyses/trends", { **asks, from: "2026-05-10", as_of: "2026-05-20" })
    expect(told["drawn"]).to eq({ "table" => "periods", "figure" => "line" })
    expect(html).to include("Rides &amp; more", "<p>First &lt;i&gt;</p>", "<p>Second</p>", "As of 20 May 2026", ERB::Util.html_escape(told["finding"]), "Riders &lt;b&gt;", "<polyline", "<rect")
    expect(html).not_to match(/<script>|<b>|<i>/)
    expect(html.scan("<table>").size).to eq(1)
    rows = told["tables"].find { |table| table["key"] == "periods" }["rows"]
    written = html[%r{<tbody>.*?</tbody>}m].scan(%r{<tr.*?</tr>}m).map { |row| row.scan(%r{<td[^>]*>(.*?)</td>}m).flatten }
    expect(written.map { |row| row[2] }).to eq(rows.reverse.map { |row| row["values"][2].to_s })
    size = call(:post, "/audiences/preview", { definition: audience["definition"], as_of: "2026-05-20" })["size"]
    expect(html).to include(Estrel::English.people(size))
  end

  it "keeps dates that move, says what cannot be shown, and shows an analysis that has nothing to draw" do
    fill
    old = saved("Before pages", asks: nil)
    fixed = saved("Fixed", question: { "from" => "2026-05-01", "as_of" => "2026-05-05" }, asks: { **asks, from: "2026-05-01", as_of: "2026-05-05" })
    empty = saved("Empty", asks: { **asks, from: "2026-05-21" })
    html = document(write("Odd", *[old, fixed, empty].map { |one| { kind: "analysis", id: one["id"] } }))
    expect(html).to include("open this analysis and save it again", "As of 5 May 2026", "before it starts (21 May 2026)")
    row = EstrelServer::SavedAnalysis.find(fixed["id"]).current
    expect(row.asked(Date.new(2026, 5, 20))).to include("as_of" => "2026-05-05", "from" => "2026-05-01")
    expect(EstrelServer::SavedAnalysis.find(saved["id"]).current.asked(Date.new(2026, 5, 20))).to include("from" => "2026-05-10")
  end

  it "shows nobody what is private to somebody else, neither by number nor inside a page, and keeps what a page shows" do
    fill
    sign_in("analyst")
    hidden = saved("Takeover", private: true)
    expect(detail(:post, "/pages", { name: "Open", blocks: [{ kind: "analysis", id: hidden["id"] }] })).to match([422, /Takeover.*private/])
    page = write("Own", { kind: "analysis", id: hidden["id"] }, private: true)
    open_page = write("All", { kind: "analysis", id: saved("Open")["id"] })
    expect(detail(:put, "/saved-analyses/#{open_page["blocks"][0]["id"]}", { private: true })).to match([422, /used by/])
    expect(detail(:delete, "/saved-analyses/#{hidden["id"]}")).to match([409, /used in a report/])
    sign_in("viewer")
    expect([call(:get, "/pages")["pages"].map { |row| row["name"] }, raw(:get, "/pages/#{page["id"]}/document.html").first]).to eq([["All"], 404])
    said = call(:post, "/pages/#{open_page["id"]}/comments", { text: " Why the dip? " })
    expect(said).to include("text" => "Why the dip?", "author" => "viewer@estrel.example", "mine" => true)
    sign_in("analyst")
    expect(call(:get, "/pages/#{open_page["id"]}")["comments"]).to contain_exactly(a_hash_including("text" => "Why the dip?", "mine" => false))
    expect(detail(:delete, "/pages/#{open_page["id"]}/comments/#{said["id"]}").first).to eq(403)
    expect(detail(:post, "/pages", { name: "x", blocks: [{ kind: "audience", id: 99 }] })).to match([422, /Block 1 shows an audience/])
    expect(detail(:post, "/pages", { name: "x", blocks: [{ kind: "heading" }] }).first).to eq(422)
  end

  it "writes over nobody's change, and deletes with a way back" do
    fill
    page = write("Every Monday", { kind: "analysis", id: saved["id"] }, { kind: "text", text: "Seen" })
    path = "/pages/#{page["id"]}"
    changed = call(:put, path, { blocks: page["blocks"].reverse, updated_at: page["updated_at"] })
    expect(changed["blocks"].map { |block| block["kind"] }).to eq(%w[text analysis])
    expect(detail(:put, path, { name: "Late", updated_at: page["updated_at"] })).to match([409, /Someone else changed this report/])
    call(:delete, path)
    expect(call(:get, "/pages")["pages"]).to eq([])
    expect(call(:post, "#{path}/restore")).to include("name" => "Every Monday")
  end

  describe "sending" do
    let(:page) { write("Every Monday", { kind: "analysis", id: saved["id"] }, { kind: "text", text: "Seen" }) }
    let(:path) { "/pages/#{page["id"]}" }

    before do
      fill
      sign_in("analyst")
    end

    it "goes into a folder by hand and scheduled, as its owner sees it" do
      expect(detail(:post, "#{path}/runs", {})).to match([422, /destination/])
      expect(detail(:put, path, { schedule: { every: "week", at: "07:30", on: 1 } })).to match([422, /destination/])
      call(:put, path, { destination_id: folder.id, schedule: { every: "week", at: "07:30", on: 1 } })
      expect(call(:get, path)["next_run_at"]).to match(/T07:30:00/)
      expect(call(:post, "#{path}/runs", { as_of: "2026-05-20" })).to include("state" => "queued")
      expect(detail(:post, "#{path}/runs", {}).first).to eq(409)
      work_off
      expect(File.read(File.join(folder.directory, "every-monday-2026-05-20.html"))).to include("Seen", "<polyline")
      at = EstrelServer::Page.find(page["id"]).next_run_at
      started = EstrelServer::Workers::Scheduler.new.tick((at.to_r * 1_000_000).to_i)
      expect(started.map { |run| [run.class, run.started_by] }).to eq([[EstrelServer::PageRun, "schedule"]])
      EstrelServer::Account.find_by(email: "analyst@estrel.example").update!(disabled_at: Time.now.utc)
      work_off
      sign_in("administrator")
      expect(call(:get, path)["runs"].map { |run| [run["state"], run["error"]] }).to match([["failed", /no longer has an account/], ["done", nil]])
      expect(detail(:delete, "/destinations/#{folder.id}")).to match([409, /Used by reports .*Every Monday/])
    end

    it "goes to a webhook as one signed message, again where that has no time, and says what it is refused for" do
      receiver = Receiver.new(EstrelServer.settings.stand_in_port)
      post = EstrelServer::Destination.create!(name: "Post", kind: "webhook", secret: receiver.secret = EstrelServer::Pushing::Signature.secret,
                                               settings: { "url" => "http://127.0.0.1:#{EstrelServer.settings.stand_in_port}/pages" })
      call(:put, path, { destination_id: post.id })
      receiver.answer(503)
      receiver.answer(200)
      call(:post, "#{path}/runs", { as_of: "2026-05-20" })
      sending = EstrelServer::Pages::Sending.new(EstrelServer::PageRun.last)
      expect { sending.run }.to raise_error(EstrelServer::Pages::Sending::Later)
      sending.run
      bodies = receiver.seen.map { |seen| [seen.valid, JSON.parse(seen.body)["type"], JSON.parse(seen.body).dig("data", "html").include?("<polyline")] }
      expect(bodies).to eq([[true, "page.sent", true]] * 2)
      expect(receiver.seen.map(&:id).uniq.size).to eq(1)
      EstrelServer::PageRun.last.update!(state: "queued")
      receiver.answer(410)
      EstrelServer::Pages::Sending.new(EstrelServer::PageRun.last).run
      expect(call(:get, path)["runs"].first).to include("state" => "failed", "error" => /410/)
    ensure
      receiver&.stop
    end
  end
end
