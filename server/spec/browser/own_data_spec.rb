# frozen_string_literal: true

require_relative "browser_helper"
require "net/http"

# The demo gives way to files and to events that arrive live, through the real collector, as an analyst watches.
RSpec.describe "data of one's own", type: :feature do
  before { sign_in }

  after { network(offline: false) }

  after(:context) do # rubocop:disable RSpec/BeforeAfterAll
    Capybara.current_session.quit
    ESTREL.renew
  end

  def network(offline:)
    page.driver.browser.execute_cdp("Network.enable")
    page.driver.browser.execute_cdp("Network.emulateNetworkConditions", offline: offline, latency: 0, downloadThroughput: -1, uploadThroughput: -1)
  end

  def collector = "http://127.0.0.1:#{ENV.fetch("ESTREL_COLLECTOR_PORT")}/events"

  def send_events(key, *events)
    Net::HTTP.post(URI(collector), JSON.generate(events), "authorization" => "Bearer #{key}", "content-type" => "application/cloudevents-batch+json")
  end

  def event(id, **changes)
    { specversion: "1.0", id: id, source: "web", type: "page_viewed", subject: "customer:live", time: Time.now.utc.iso8601, data: { path: "/fares" } }.merge(changes)
  end

  # A source by way of the interface; its key is shown once.
  def add_source(name)
    visit "/data/sources"
    click_button "Add a source"
    fill_in "Name", with: name
    click_button "Add source"
    find("[data-testid='issued-key'] code").text
  end

  it "removes the demo, imports files of her own by upload, and sees their base" do
    visit "/data"
    expect(page).to have_button("Remove demo data…")
    expect(page).to be_axe_clean
    click_button "Remove demo data…"
    fill_in "Type “remove all data” to confirm", with: "remove all data"
    click_button "Remove everything"
    expect(page).to have_text("Nothing has been imported yet.")
    visit "/"
    expect(page).to have_text("No data yet.")
    expect(page).to be_axe_clean
    click_on "Import files"

    file = File.join(DOWNLOADS, "own.csv")
    File.write(file, "id,type,subject,time\n1,visit,customer:1,2026-05-01T10:00:00Z\n2,visit,customer:2,2026-05-20T10:00:00Z\n3,visit,nobody,2026-05-20T10:00:00Z\n")
    find("[data-testid='file']").attach_file(file)
    click_button "Import"
    row = find("[data-testid^='import-'][data-state='done']")
    expect(row.all("td").map(&:text)[0..6]).to eq(["own.csv", "events", "done", "3", "2", "0", "1"])
    expect(page).to have_text("has no identifier type")
    expect(page).to have_text("2 people and 2 events")
    visit "/"
    expect(page).to have_css("[data-testid='finding']", text: "On 20 May 2026, 2 of 2 people are new or active (100%).")
    visit "/people"
    expect(find("[data-testid='people-total']").text).to eq("2 people as of 20 May 2026")
  end

  it "adds a source, watches its events arrive, sees why one was refused, and has the rest in every answer" do
    key = add_source("web")
    expect(page).to be_axe_clean
    visit "/data/sources"
    expect(page).to have_no_text(key)
    expect(page).to have_css("[data-testid='source-web']", text: "in use")

    visit "/data/live"
    expect(page).to have_css("[data-testid='live']", text: "live")
    answer = send_events(key, event("1"), event("2", time: nil), event("3", subject: "visitor:browser"))
    expect(JSON.parse(answer.body)).to include("stored" => 2, "refused" => 1)
    within("[data-testid='live-events']") do
      expect(page).to have_css("tr[data-outcome='refused']", text: "The time is missing.")
      find("tr[data-outcome='refused'] summary").click
      expect(page).to have_text("\"id\":\"2\"")
    end
    expect(page).to be_axe_clean
    click_button "Pause"
    send_events(key, event("4"))
    expect(page).to have_button("Go on, 1 event waiting")
    click_button "Go on, 1 event waiting"
    expect(page).to have_css("tr[data-outcome='stored']", text: "customer:live", count: 2)
    select "refused", from: "Outcome"
    expect(page).to have_no_css("tr[data-outcome='stored']")

    expect(page).to have_css("[data-testid='freshness']", text: /data \d+ s old/)
  end

  it "puts what came in into every answer within seconds, follows a link, and stops at once when the key is revoked" do
    key = add_source("kiosk")
    send_events(key, event("7", source: "kiosk"), event("8", source: "kiosk", subject: "visitor:browser"))
    visit "/people?search=customer:live"
    expect(page).to have_css("[data-testid='people-total']", text: "1 person")
    send_events(key, event("9", source: "kiosk", type: "estrel.link", subject: "visitor:browser", data: { same_as: "customer:live" }))
    first("tbody a").click
    expect(page).to have_css("[data-testid='identifiers']", text: "browser")
    expect(page).to have_css("[data-testid='merge']", text: "visitor:browser")

    visit "/data/sources"
    within("[data-testid='source-kiosk']") do
      click_button "Revoke the key"
      click_button "Revoke permanently"
    end
    expect(page).to have_text("The key has been revoked")
    sleep 1.2
    expect(send_events(key, event("10", source: "kiosk")).code).to eq("401")
  end

  it "sends from a browser: keeps what happens offline and over reloads, links on sign-in, and nothing for who asks not to be tracked" do
    key = add_source("shop")
    example = "/sender/example.html?#{URI.encode_www_form(collector: collector, key: key, source: "shop")}"
    visit example
    expect(page).to have_text("Sending as visitor")
    visitor = find_by_id("told").text.split.last
    click_button "I plan a trip"
    waiting = -> { page.evaluate_script("Object.keys(localStorage).filter((key) => key.startsWith('estrel.event.')).length") }
    20.times { waiting.call.zero? ? break : sleep(0.2) }
    expect(waiting.call).to eq(0)

    network(offline: true)
    3.times { click_button "I plan a trip" }
    click_button "I sign in as customer:EXAMPLE"
    click_button "I plan a trip"
    sleep 0.5
    expect(waiting.call).to eq(5)
    network(offline: false)
    visit example
    visit "/people?search=customer:EXAMPLE"
    first("tbody a").click
    expect(page).to have_css("[data-testid='identifiers']", text: visitor)
    expect(page).to have_link("trip planned 5")
    expect(page).to have_link("page viewed 2")

    page.driver.browser.execute_cdp("Page.addScriptToEvaluateOnNewDocument", source: "Object.defineProperty(navigator, 'doNotTrack', { value: '1' })")
    visit example
    click_button "I plan a trip"
    expect(page.evaluate_script("Object.keys(localStorage).filter((key) => key.startsWith('estrel.'))")).to eq([])
    visit "/data/live?type=trip_planned"
    expect(page).to have_css("[data-testid='live-events'] tbody tr", count: 5)
  end

  it "streams a file with bin/estrel send, and erases a person for good" do
    key = add_source("files")
    lines = Array.new(3) { |index| JSON.generate(event("s#{index}", source: "files", subject: "customer:gone")) }
    output = IO.popen({ "ESTREL_KEY" => key }, [File.join(ROOT, "bin/estrel"), "send"], "r+") do |command|
      command.puts(*lines, lines.first, "no JSON")
      command.close_write
      command.read
    end
    expect(output).to start_with("3 stored, 1 already known, 1 refused")

    visit "/people?search=customer:gone"
    first("tbody a").click
    click_button "Erase…"
    fill_in "Reason", with: "asked by letter"
    expect(page).to have_button("Erase person", disabled: true)
    fill_in "Type “erase this person” to confirm", with: "erase this person"
    click_button "Erase person"
    expect(page).to have_text("gone and 3 events erased")
    visit "/people?search=customer:gone"
    expect(page).to have_text("No people match.")
    again = send_events(key, event("s9", source: "files", subject: "customer:gone"))
    expect(JSON.parse(again.body)["events"].first["reason"]).to match(/erased on request/)
  end
end
