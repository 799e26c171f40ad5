# frozen_string_literal: true

require_relative "browser_helper"
require "csv"
require "json"

# Exporting, through the real interface; what stands there is compared with what the core says.
RSpec.describe "exports", type: :feature do
  include_context "with a clear desk"

  def step(name) = find("[data-testid='step-#{name}']")

  def audience = { "all" => [{ "lifecycle" => { "is" => ["dormant"] } }] }

  # What the core says would become of them, by e-mail.
  def waterfall(definition, **rules)
    evaluator = Estrel::Audience::Evaluator.new(generation, as_of: generation.newest_day, rule_set: rule_set)
    parsed = Estrel::Audience::Definition.parse(definition, catalogue: generation.catalogue)
    Estrel::Exports::Waterfall.new(evaluator, evaluator.members(parsed), Estrel::Exports::Suppression.new(channel: "email", **rules))
  end

  def downloaded(pattern)
    found = nil
    80.times { (found = Dir[File.join(DOWNLOADS, pattern)].max_by { |file| File.mtime(file) }) && File.size?(found) ? break : sleep(0.1) }
    File.read(found)
  end

  it "looks, opens who is excluded, and exports the rest" do
    visit "/audiences/new?#{URI.encode_www_form(name: "Dormant riders", definition: JSON.generate(audience))}"
    click_button "Save"
    click_link "Export", exact: true
    expect(page).to have_css("[data-testid='waterfall']")
    select "email", from: "Channel"
    messaged = Estrel::Exports::Suppression::Messaged.new(events: ["message_received"], days: 60)
    found = waterfall(audience, messaged: messaged)
    find("summary", text: "No frequency cap").click
    check "message received"
    fill_in "Days since a message", with: "60"
    expect(step("exported")).to have_button(shown(found.ids("exported").len))
    found.counts.slice(*Estrel::Exports::Waterfall::EXCLUDED).each { |name, people| expect(step(name)).to have_css("td:nth-child(2)", text: people.zero? ? "·" : shown(people)) }
    step("messaged").find("button").click
    expect(page).to have_css("[data-testid='step-total']", text: "#{shown(found.ids("messaged").len)} people")
    expect(page).to be_axe_clean
    visit page.current_url # what is not saved survives
    add "address of the channel", "a column"
    add "how often …", "a column"
    expect(page).to have_css("[data-testid='sample'] th", text: "address")
    click_button "Save and export #{shown(found.ids("exported").len)} people"
    expect(page).to have_css("[data-testid='runs'] tr", text: "#{shown(found.ids("exported").len)} people")
    click_link "csv"
    rows = CSV.parse(downloaded("dormant-riders-*.csv"), headers: true)
    expect(rows.map { |row| row["address"] }).to eq(found.frame.filter(Polars.col("step") == "exported")["address"].to_a)
    find("[data-testid='runs'] a", text: "people").click
    expect(page).to have_css("[data-testid='finding']", text: "#{shown(found.ids("exported").len)} of #{shown(found.frame.height)} people")
    step("messaged").find("button").click
    expect(page).to have_css("[data-testid='step-total']", text: "#{shown(found.ids("messaged").len)} people")
    expect(page).to be_axe_clean
  end

  it "keeps lists and holdouts, and excludes by them; by keyboard" do
    visit "/exports/keeping"
    fill_in("New list", with: "Press").send_keys(:tab, :tab, :enter)
    expect(page).to have_css("[data-testid='lists'] tr", text: "Press")
    path = File.join(DOWNLOADS, "press.txt")
    addresses = waterfall({ "all" => [] }).frame.filter(Polars.col("step") == "exported")["address"].head(3).to_a
    File.write(path, addresses.join("\n"))
    attach_file("Values to add to Press", path, make_visible: true)
    expect(page).to have_text("3 values read, 3 of them new")
    fill_in "New holdout", with: "Control"
    fill_in "of", exact: true, with: "20"
    click_button "Create the holdout"
    expect(page).to have_css("[data-testid='holdouts'] tr", text: "20%")
    expect(page).to be_axe_clean
    visit "/exports"
    click_link "Docks repaired"
    find("summary", text: "Do not contact").send_keys(:enter)
    find("label", text: "Press").find("input").send_keys(:space)
    expect(page).to have_css("summary", text: "Do not contact or Press")
    find("label", text: "Press").find("input").send_keys(:escape)
    expect(page).to have_no_css("label", text: "Press")
    select "Control, 20%", from: "Holdout"
    click_button "Save"
    expect(page).to have_text("The export has been saved")
    visit "/exports/keeping"
    click_button "Remove Press"
    click_button "Remove permanently"
    expect(page).to have_css("[role=alert]", text: "Used by exports Docks repaired")
  end

  it "says whether a run made a difference" do
    holdout = api(:post, "/holdouts", { name: "Spring", share: 0.3 })["id"]
    riders = { "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 }, "window" => { "last_days" => 30 } } }
    audience = api(:post, "/audiences", { name: "Late riders", definition: riders })["id"]
    export = api(:post, "/exports", { name: "Late riders", audience_id: audience, rules: { columns: [{ take: "identifier:customer" }], holdout: holdout } })["id"]
    visit "/exports/#{export}?as_of=2026-09-13"
    click_button "Export"
    find("[data-testid='runs'] a", text: "people").click
    expect(page).to have_css("[data-testid='finding-effect']", text: "No result yet: this run exported on")
    exported_on(Date.new(2026, 9, 13))
    visit page.current_url.sub("as_of=2026-09-13", "as_of=2026-10-31")
    expect(page).to have_css("h1", text: "exported 13 Sep 2026, 23:59")
    expect(page).to have_css("[data-testid='finding-effect']")
    select "how many", from: "Measured by"
    select "ended a ride", from: "Event"
    fill_in("Within days", with: "7").send_keys(:tab)
    expect(page).to have_current_path(/[?&]days=7\b/, url: true)
    # In the holdout by chance alone, of people to whom nothing was sent: no effect can be found but by luck.
    expect(page).to have_css("[aria-busy='false'] [data-testid='finding-effect']", text: /of those exported ended a ride, .* of the holdout .difference/)
    rows = all("[data-testid='table-groups'] tbody tr").map { |row| row.all("td").map(&:text) }
    expect(rows.sum { |row| row[1].delete(",").to_i }).to eq(members(riders, on: Date.new(2026, 9, 13)).len)
    after = { "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 }, "window" => { "from" => "2026-09-14", "to" => "2026-09-20" } } }
    both = members(riders, on: Date.new(2026, 9, 13)).to_a & members(after).to_a
    expect(rows.sum { |row| row[2].delete(",").to_i }).to eq(both.size)
    expect(page).to be_axe_clean
    # The same over all runs of the export, of which there is one, on its own page; and what its holdout can show of the next.
    finding = find("[data-testid='finding-effect']").text
    click_link "Late riders"
    # All of them have ridden of late, so that nobody could come back.
    expect(page).to have_css("[data-testid='holdout-shows']", text: "only 0 people")
    select "how many", from: "Measured by"
    select "ended a ride", from: "Event"
    fill_in("Within days", with: "7").send_keys(:tab)
    expect(page).to have_css("[data-testid='finding-effect']", text: "Over 1 run, each person from her first on: #{finding}")
    expect(page).to have_css("[data-testid='holdout-shows']", text: /% ended a ride within 7 days\. A holdout of 30%/)
    expect(page).to be_axe_clean
  end

  it "holds a share of everybody back from all exports for a quarter, and measures all marketing by it" do
    visit "/exports"
    click_link "Global holdout"
    expect(page).to have_text("There has been none yet.")
    fill_in("Percentage of all people", with: "10").send_keys(:tab)
    expect(page).to have_css("[data-testid='standing-shows']", text: /were active within \d+ days\. A holdout of 10% of [\d,]+ people can show/)
    find("select[aria-label='When'] option:last-child").select_option
    find("button", text: "Start on").send_keys(:enter)
    expect(page).to have_css("[data-testid='standing-holdouts'] tr", text: /10% begins in \d+ days/, normalize_ws: true)
    click_button "Delete"
    click_button "Delete permanently"
    expect(page).to have_text("There has been none yet.")
    EstrelServer::Database::Store.connect
    standing = EstrelServer::StandingHoldout.create!(share: 0.1, first_day: Date.new(2026, 7, 1), last_day: Date.new(2026, 9, 30))
    visit "/exports/standing?measure=state"
    expect(page).to have_css("[data-testid='finding-effect']", text: /of those not held back were new or active at the end, .* of the standing holdout .* allows for 3 outcomes/)
    known = generation.profiles.filter(Polars.col("first_seen_day") < Estrel::Calendar.number(Date.new(2026, 7, 1)))["profile_id"].to_a
    held, others = known.partition { |id| standing.rule.place(id) < standing.rule.limit }
    alive = Estrel::Lifecycle.new(generation, rule_set).states(Date.new(2026, 9, 30)).then { |states| generation.ids.filter(states["state"].is_in(%w[new active])).to_a }
    rows = all("[data-testid='table-groups'] tbody tr").map { |row| row.all("td").map(&:text) }
    expect(rows.map { |row| row[0..2] }).to eq([["Not held out", others], ["Global holdout", held]].map { |name, ids| [name, shown(ids.size), shown((ids & alive).size)] })
    expect(all("[data-testid='table-outcomes'] tbody tr").map { |row| row.first("td").text }).to eq(["were new or active at the end", "were active", "total price (pass bought) per person"])
    expect(page).to be_axe_clean
  ensure
    EstrelServer::StandingHoldout.delete_all
  end

  it "goes from those a funnel loses to an export that writes to them, and to what came of it" do
    api(:post, "/holdouts", { name: "Autumn", share: 0.3 })
    visit "/analyses/funnel?#{URI.encode_www_form(as_of: "2026-09-13", event: "trip_planned", within: "14 days", then: JSON.generate([{ event: "pass_bought" }]))}"
    click_link "Create audience"
    order = lambda do |*events|
      { "order" => { "steps" => events.map { |event| { "event" => event } }, "within" => { "days" => 14 }, "window" => { "from" => "2026-06-16", "to" => "2026-09-13" } } }
    end
    planned = { "did" => { "event" => "trip_planned", "window" => { "from" => "2026-06-16", "to" => "2026-09-13" } } }
    people = members({ "all" => [planned, { "not" => order.call("trip_planned", "pass_bought") }] }, on: Date.new(2026, 9, 13)).len
    expect(page).to have_css("[data-testid='size']", text: shown(people))
    fill_in "Name of the audience", with: "Planned, bought nothing"
    click_button "Save"
    click_link "Export", exact: true
    select "Autumn, 30%", from: "Holdout"
    click_button "Save and export"
    find("[data-testid='runs'] a", text: "people").click
    expect(page).to have_css("[data-testid='finding-effect']", text: "No result yet")
    exported_on(Date.new(2026, 9, 13))
    visit page.current_url.sub("as_of=2026-09-13", "as_of=2026-10-31")
    select "how many", from: "Measured by"
    select "bought a pass", from: "Event"
    expect(page).to have_css("[data-testid='finding-effect']", text: /of those exported bought a pass, .* of the holdout/)
    rows = all("[data-testid='table-groups'] tbody tr").map { |row| row.all("td").map(&:text) }
    expect(rows.sum { |row| row[1].delete(",").to_i }).to eq(people)
  end

  it "says what is wrong with an export, and waits for a word where the number has changed much" do
    visit "/exports/1"
    fill_in "Name of the export", with: " "
    click_button "Save"
    expect(page).to have_css("[role=alert]", text: /name/i)
    fill_in "Name of the export", with: "Docks repaired"
    expect(page).to have_css("[data-testid='waterfall']")
    # Many more were exported in July, before the news of autumn.
    find("button.act", text: /\AExport/).click
    expect(page).to have_css("[data-testid='runs'] tr", text: "Approve the run or cancel it")
    find("button.act", text: /\AExport/).click
    expect(page).to have_css("[role=alert]", text: "already running")
    click_button "Approve and export"
    expect(page).to have_css("[data-testid='runs'] tr:first-child", text: "people,")
    visit "/exports"
    click_button "Delete Docks repaired"
    expect(page).to have_no_link("Docks repaired")
    click_button "Undo"
    expect(page).to have_link("Docks repaired")
  end
end
