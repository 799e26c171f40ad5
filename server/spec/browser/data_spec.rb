# frozen_string_literal: true

require_relative "browser_helper"

# The place Data and the page of one person, on the demo. Everything changed here is changed back.
RSpec.describe "the place Data and one person", type: :feature do
  before { sign_in }

  def count_of(type) = find("[data-testid='type-#{type}'] td:nth-child(3)").text.delete(",").to_i

  it "reads a misspelt event type as the right one, and takes that back" do
    visit "/data/catalogue"
    expect(page).to have_css("h1")
    expect(find("[data-testid='type-rideEnded']").text).to include("new")
    before = count_of("ride_ended")
    misspelt = count_of("rideEnded")
    find("[data-testid='type-rideEnded'] a").click
    expect(page).to be_axe_clean
    select "ride_ended", from: "Merge into"
    find("[data-part='root']", text: "rideEnded is read as ride_ended from now on").hover # which keeps it
    expect(page).to have_css("[data-testid='type-ride_ended'] td:nth-child(3)", text: shown(before + misspelt))
    expect(generation.catalogue.aliases).to eq("rideEnded" => "ride_ended")
    click_button "Undo"
    expect(page).to have_css("[data-testid='type-ride_ended'] td:nth-child(3)", text: shown(before))
    expect(count_of("rideEnded")).to eq(misspelt)
  end

  it "describes a property, by the keyboard" do
    visit "/data/catalogue?type=ride_ended"
    field = find("input[aria-label='Description of distance_km']")
    field.send_keys("Along the road, not the crow's", :enter)
    expect(page).to have_css("input[aria-label='Description of quarter']")
    visit "/data/catalogue?type=ride_ended"
    expect(page).to have_field("Description of distance_km", with: "Along the road, not the crow's")
  end

  it "tells how late events came when the kiosks were offline, and who has gone silent" do
    visit "/data/live?as_of=2026-02-28"
    expect(find("[data-testid='lateness-finding']").text).to match(/Slowest source: kiosk, \d+% of events more than a day late\./)
    visit "/data/live"
    expect(find("[data-testid='lateness-finding']").text).to include("tram has been silent for longer than usual")
    expect(page).to be_axe_clean
  end

  it "changes the visit gap and says what that changed" do
    visit "/data/settings"
    fill_in "Visit gap, minutes", with: "0"
    click_button "Save the settings"
    expect(page).to have_no_css("[data-testid='settings-outcome']")
    fill_in "Visit gap, minutes", with: "120"
    click_button "Save the settings"
    outcome = find("[data-testid='settings-outcome']")
    expect(outcome.text).to include("The visit gap went from 30 to 120.")
    cells = outcome.find("tr", text: "visits in the last 30 days").all("td").map { |cell| cell.text.delete(",") }
    expected = [30, 120].map { |minutes| Estrel::Visits.count(generation, as_of - 29, as_of, minutes * 60_000_000) }
    expect(cells[1..2].map(&:to_i)).to eq(expected)
    fill_in "Visit gap, minutes", with: "30"
    click_button "Save the settings"
    expect(page).to have_text("The visit gap went from 120 to 30.")
  end

  it "finds people by what they are and did, and writes that as an audience" do
    visit "/people"
    select "plan", from: "Attribute"
    fill_in "Value", with: "day pass"
    select "ride ended", from: "Event type"
    fill_in "Days", with: "60"
    click_button "Find"
    wanted = { "all" => [{ "attribute" => { "name" => "plan", "compare" => "is", "value" => "day pass" } },
                         { "did" => { "event" => "ride_ended", "window" => { "last_days" => 60 } } }] }
    expect(page).to have_css("[data-testid='people-total']", text: "#{shown(members(wanted).len)} people found")
    click_on "Create audience"
    expect(find("[data-testid='size'][data-stale='false']").text.delete(",").to_i).to eq(members(wanted).len)
  end

  it "shows one person's visits, consent, who the two were before, and a device that went on" do
    visit "/people?search=visitor:w-0007"
    first("tbody a").click
    expect(page).to have_css("[data-testid='merge']", text: "web said that visitor:w-0007")
    find("summary", text: "Who the two were before").click
    expect(find("[data-testid='merge']").text).to match(/visitor:w-0007\n\d × trip planned/)
    expect(page).to have_css("[data-testid='visit']", text: /visit \d+, \d+ events? in \d+ min/)
    expect(page).to be_axe_clean
    fill_in "up to", with: "31 Jul 2026\n"
    expect(page).to have_current_path(/until=2026-07-31/)
    visit "/people?search=visitor:tablet-03"
    first("tbody a").click
    expect(page).to have_css("[data-testid='move']", text: "came from another customer")
    click_on "another customer"
    expect(page).to have_css("[data-testid='move']", text: "went to another customer")
  end
end
