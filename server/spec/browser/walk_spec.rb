# frozen_string_literal: true

require_relative "browser_helper"
require "csv"
require "json"

# The path of an analyst through the real interface in real Chromium, from the base to a file of people.
RSpec.describe "an analyst's path", type: :feature do
  let(:definition) do
    { "all" => [{ "attribute" => { "name" => "plan", "compare" => "is", "value" => "pay as you go" } },
                { "did" => { "event" => "ride_ended", "count" => { "at_least" => 3 }, "window" => { "last_days" => 30 },
                             "where" => [{ "property" => "distance_km", "compare" => "greater", "value" => 5 }] } },
                { "did" => { "event" => "pass_bought", "count" => { "exactly" => 0 }, "window" => { "last_days" => 60 } } }] }
  end

  before { sign_in }

  after { quiet_browser }

  it "reads the base, opens the dormant ones, and one of them" do
    visit "/"
    counts = lifecycle.counts(as_of, as_of).transform_values(&:first)
    expect(find("[data-testid='finding']").text).to start_with("On 31 Oct 2026, #{shown(counts["new"] + counts["active"])} of 12,000 people are new or active")
    expect(find("[data-testid='table-states'] tr", text: "churned")).to have_link(shown(counts["churned"]))
    within("[data-testid='table-states'] tr", text: "dormant") { click_link shown(counts["dormant"]) }
    expect(find("[data-testid='people-total']").text).to eq("#{shown(counts["dormant"])} people dormant as of 31 Oct 2026")
    first("tbody a").click
    expect(page).to have_css("h1", text: /\AF\d{5}\z/)
    expect(page).to have_css("[data-testid='timeline'] li", minimum: 1)
    page.go_back
    expect(page).to have_css("[data-testid='people-total']", text: "dormant")
  end

  it "opens the people of a stratum at a date by a click into the picture, and by the keyboard" do
    visit "/?range=90&step=day"
    strata = find("[data-testid='strata']")
    page.driver.browser.action.move_to(strata.native, 0, 100).click.perform
    expect(page).to have_current_path(%r{/people\?state=active&as_of=2026-09-\d\d})
    page.go_back
    find("[data-testid='strata']").send_keys(:left, :left)
    find(:link, text: /\d churned\z/).click
    day = Date.new(2026, 10, 29)
    expect(find("[data-testid='people-total']").text).to eq("#{shown(lifecycle.counts(day, day)["churned"].first)} people churned as of 29 Oct 2026")
  end

  it "writes an audience, sees its size change, and keeps it" do
    visit "/audiences/new"
    expect(size).to eq(12_000)
    fill_in "Name of the audience", with: "Far riders without a pass"
    start "whose attribute …", "Attribute", /\Aplan/
    expect(page).to have_css("button[aria-label='Value: pay as you go']")
    close
    start "who did …", "Event type", /\Aride ended/
    fill_in "Times", with: "3"
    close
    find("button[aria-label^='Change condition who ended a ride']").click
    click_button "Add a condition on the event"
    change "Property: bike"
    choose_option "Property", /\Adistance/
    change "Comparison: is at least"
    choose_option "Comparison", "is more than"
    change "Value: 1 km"
    fill_in "Value", with: "5"
    close
    start "who did …", "Event type", /\Apass bought/
    select "never", from: "How often"
    close
    all("button[aria-label^='When: ']", count: 2).last.click
    fill_in "Days", with: "60"
    close
    expect(page).to have_css("[data-testid='line']", text: "who have not bought a pass in the last 60 days", normalize_ws: true)

    expect(size).to eq(members(definition).len)
    left = all("[data-testid='left']").map { |cell| cell.text.split.first.delete(",").to_i }
    expect(left.last).to eq(size)
    expect(left).to eq(left.sort.reverse)
    draft = page.current_url
    visit draft
    expect(size).to eq(members(definition).len)
    expect(page).to be_axe_clean
    click_button "Save"
    expect(page).to have_current_path(%r{\A/audiences/\d+\z})
    expect(page).to have_text("version 1")
  end

  it "renames, duplicates, deletes and brings back an audience" do
    visit "/audiences"
    expect(page).to be_axe_clean
    click_on "Dormant commuters"
    fill_in "Name of the audience", with: "Sleepy commuters"
    send_keys([:control, "s"])
    expect(page).to have_text("“Sleepy commuters” has been saved")
    click_on "Duplicate"
    expect(page).to have_field("Name of the audience", with: "Sleepy commuters (copy)")
    page.go_back
    click_button "Delete"
    expect(page).to have_css("h1", text: "Audiences")
    expect(page).to have_no_css("tbody a", text: "Sleepy commuters")
    click_button "Undo"
    expect(page).to have_field("Name of the audience", with: "Sleepy commuters")
    fill_in "Name of the audience", with: "Dormant commuters"
    send_keys([:control, "s"])
    expect(page).to have_text("“Dormant commuters” has been saved")
  end

  it "writes an order of events as a document, sees who is undecided, and goes back to an earlier version" do
    order = { "order" => { "steps" => [{ "event" => "trip_planned" }, { "event" => "ride_ended", "within" => { "hours" => 2 } }], "window" => { "last_days" => 30 },
                           "then_not" => { "event" => "pass_bought", "within" => { "days" => 7 } } } }
    visit "/audiences/new?#{URI.encode_www_form(name: "Rode as planned")}"
    find("summary", text: "As JSON").send_keys(:enter)
    fill_in "The definition as JSON", with: JSON.generate(order)
    expect(page).to have_css("[data-testid='line']", text: "who planned a trip and then within 2 hours ended a ride in the last 30 days but have not bought a pass within 7 days", normalize_ws: true)
    expect(size).to eq(members(order).len)
    expect(page).to have_text(/[\d,]+ more are undecided/)
    expect(page).to have_css("[data-testid='trend']", text: /in 90 days/)
    expect(page).to be_axe_clean
    click_button "Save"
    expect(page).to have_current_path(%r{\A/audiences/\d+})
    expect(page).to have_text("version 1")
    click_button "More conditions…"
    click_button "who do something regularly…"
    take "Event type", /\Abike unlocked/
    find_field("Times").send_keys(:escape)
    expect(page).to have_css("[data-testid='line']", text: "at least once in each of the last 4 weeks", normalize_ws: true)
    click_button "Save"
    expect(page).to have_text("version 2")
    find("summary", text: "2 versions").send_keys(:enter)
    expect(page).to have_css("[data-testid='versions'] li", text: /new:\s*who unlocked a bike at least once in each of the last 4 weeks/, normalize_ws: true)
    click_button "Restore"
    expect(page).to have_text("Restored as version 3")
    expect(size).to eq(members(order).len)
  end

  it "exports the audience as the file the core would write" do
    visit "/audiences"
    click_on "Far riders without a pass"
    click_on "Export", exact: true
    click_button "Save and export #{members(definition).len} people"
    expect(page).to have_css("[data-testid='runs'] tr", text: "#{shown(members(definition).len)} people")
    click_link "csv"
    file = nil
    80.times do
      file = Dir[File.join(DOWNLOADS, "far-riders-*-run-*.csv")].first
      break if file

      sleep 0.1
    end
    expected = generation.profiles.filter(Polars.col("profile_id").is_in(members(definition)))
    rows = CSV.read(file, headers: true)
    expect(rows.map { |row| row["customer"] }).to eq(expected["identifier:customer"].to_a)
    expect(rows.map { |row| row["email"] }).to eq(expected["identifier:email"].to_a)
    expect(rows.map { |row| row["state"] }.uniq - %w[new active]).to eq([])
  end

  it "asks as of another date and under another rule set, and refuses one that makes no sense" do
    visit "/?as_of=2026-02-01"
    expect(page).to have_css("[data-testid='finding']", text: "On 1 Feb 2026")
    click_button "Lifecycle rules: new for 30 days, dormant after 30, churned after 90"
    click_button "Buyers"
    expect(page).to have_text("inactive for 45 to 119 days")
    expect(page).to have_current_path(/rules=2/)
    click_button "Lifecycle rules: new for 30 days, dormant after 45, churned after 120"
    click_on "Edit rules…"
    dormant = find_field("dormant")
    dormant.set("125")
    expect(page).to have_text("Churned must start later than dormant")
    dormant.set("40")
    expect(page).to have_css("[data-testid='rule-set-effect']", text: "would change state")
    click_button "Save the rule set"
    expect(page).to have_text("dormant from 40 inactive days")
    click_button "Version history of Buyers"
    click_button "Restore this version"
    expect(page).to have_text("dormant from 45 inactive days")
  end

  it "is worked by keyboard: places, help, phrases" do
    visit "/"
    expect(page).to have_css("[data-testid='finding']")
    click_link "Help"
    click_button "Keyboard shortcuts"
    expect(page).to have_css("dt", text: "g p")
    send_keys(:escape)
    expect(page).to have_no_css("dt", text: "g p")
    find("body").send_keys("?")
    expect(page).to have_css("dt", text: "g p")
    send_keys(:escape)
    find("body").send_keys("g", "a")
    click_on "Far riders without a pass"
    phrase = find("button[aria-label^='How often: at least 3 times']")
    phrase.send_keys(:enter)
    expect(page).to have_field("Times", with: "3")
    send_keys(:escape)
    expect(page).to have_no_field("Times")
    expect(page).to have_css("button[aria-label^='How often']:focus")
  end
end
