# frozen_string_literal: true

require_relative "browser_helper"
require "json"

# The state of the base, how it moves, which thresholds are right, and how the past has changed, through the real
# interface; what stands there is compared with what the core says.
RSpec.describe "lifecycle", type: :feature do
  include_context "with a clear desk"

  def steps(*dates) = Estrel::Lifecycle::Steps.between(*dates)

  def everybody = Estrel::Lifecycle::Grouping.everybody(generation)

  def downloaded(name)
    file = File.join(DOWNLOADS, name)
    50.times { File.size?(file) ? break : sleep(0.1) }
    File.binread(file)
  end

  it "shows what moved between two days, opens each cell into its people, and keeps them as an audience" do
    visit "/?between=2026-09-20&and=2026-10-25"
    movement = lifecycle.movements(steps(Date.new(2026, 9, 20), Date.new(2026, 10, 25)), everybody).first.first
    expect(page).to have_css("[data-testid='movement'] a[aria-label$='from active to dormant, lapsed']", text: shown(movement["active", "dormant"]))
    find("a[aria-label='Create audience: lapsed']").click
    expect(page).to say("were dormant or churned on 25 Oct 2026")
    expect(size).to eq(movement.part("lapsed"))
    visit "/?between=2026-09-20&and=2026-10-25"
    find("[data-testid='movement'] a[aria-label$='from never active to new, joined']").click
    expect(page).to have_text("#{shown(movement["never_active", "new"])} people")
    visit "/"
    came_back = Estrel::Lifecycle::DormantPeople.new(lifecycle, as_of).counts["origins"]["reactivated"]
    find("a[aria-label='Create audience: reactivated for one day']").click
    expect(page).to say("who are dormant and were new or active before having been reactivated")
    expect(size).to eq(came_back)
    visit "/?step=month"
    expect(page).to have_css("[data-testid='finding']", text: "gain/loss ratio")
    select "plan at that time", from: "Split by"
    expect(page).to have_css("[data-testid='table-groups'] tr", text: "monthly pass")
    expect(page).to be_axe_clean
  end

  it "takes a picture along, with its title, date, rule set and finding in it" do
    visit "/"
    click_button "States over time as SVG"
    picture = downloaded("states-over-time.svg")
    expect(picture).to include("States over time", "As of 31 Oct 2026. Riders: new for 30, dormant from 30, churned from 90 days.", "people are new or active", 'id="state-active"')
    expect(picture).to match(/fill: url\((&quot;)?#state-active/)
    expect(picture).not_to include("var(--")
    click_button "States over time as PNG"
    expect(downloaded("states-over-time.png")).to start_with("\x89PNG".b)
    expect(URI.decode_www_form_component(first("a[download='periods.jsonl']")[:href])).to include('"from":', '"ratio":')
  end

  it "tells who is active, and opens them" do
    visit "/lifecycle/activity"
    trailing = Estrel::Lifecycle::ActivePeople.new(lifecycle.gaps(everybody)).trailing(steps(as_of - 7, as_of)).first
    devices = Estrel::Lifecycle::ActivePeople.new(Estrel::Lifecycle::Gaps.of_devices(lifecycle.device_days)).trailing(steps(as_of - 30, as_of)).first
    expect(devices[30].last).to be_positive
    row = ->(days) { find("[data-testid='table-now'] tr", text: /\A#{days} days /) }
    expect(row.call(30)).to have_css("td", text: shown(devices[30].last), exact_text: true)
    within(row.call(7)) { click_link shown(trailing[7].last) }
    expect(page).to have_text("#{shown(trailing[7].last)} people")
  end

  it "helps to choose thresholds: other ones are tried with a slider and taken over into the rule set" do
    visit "/lifecycle/thresholds"
    study = analysed("thresholds")
    expect(page).to have_css("[data-testid='finding']", text: study.finding)
    suggested = study.picture[:suggested][:churned_after]
    click_button "#{suggested} days"
    tried = Estrel::Lifecycle.new(generation, rule_set.with(churned_after: suggested))
    churned = tried.counts(as_of, as_of)["churned"].first
    expect(page).to have_css("[data-testid='rule-set-effect'] tr", text: "churned #{shown(lifecycle.counts(as_of, as_of)["churned"].first)} #{shown(churned)}", normalize_ws: true)
    expect(page).to have_css("[data-testid='table-weeks'] tr", minimum: 10)
    first("input[type='range']").send_keys(:arrow_right)
    expect(page).to have_text("Dormant from 31 inactive days", normalize_ws: true)
    within("[data-testid='table-changes']") { first("td a").click }
    expect(page).to have_css("h1", text: "People")
    page.go_back
    click_on "Apply to rules…"
    expect(page).to have_field("churned", with: suggested.to_s)
    expect(page).to be_axe_clean
    click_button "Cancel"
    expect(page).to have_css("[data-testid='rule-sets'] li", text: "Riders")
  end

  it "shows by how much past weeks have changed since, and one person's way" do
    # The kiosks were offline from 2 to 15 February and delivered on the 17th.
    visit "/lifecycle/revisions?from=2026-01-01&as_of=2026-04-05&state=dormant"
    day = Date.new(2026, 2, 15)
    now = lifecycle.counts(day, day)["dormant"].first
    before = Estrel::Lifecycle::ReceivedThen.new(lifecycle).counts(steps(day - 7, day))["dormant"].last
    expect(before).to be > now
    expect(find("[data-testid='table-weeks_dormant'] tr", text: "15 Feb 2026")).to have_text("#{shown(before)} #{shown(now)} −#{before - now} −#{before - now} ±0 ±0 ±0", normalize_ws: true)
    expect(page).to have_css("[data-testid='finding']", text: "2 of 14 weeks revised")
    expect(find("[data-testid='table-sources'] tr", text: "kiosk")).to have_text("8 days")
    visit "/people/1722"
    expect(page).to have_css("[data-testid='person-lifecycle']", text: "If nothing happens:")
    history = Estrel::Lifecycle::PersonHistory.new(Estrel::Lifecycle.new(generation.slice(1722..1722), rule_set), as_of).to_h
    expect(find("[data-testid='person-lifecycle']").text).to include("longest inactivity gap #{history[:longest_gap]} days")
  end

  it "adds an alert rule, shows its alert, and deletes it" do
    visit "/lifecycle/alerts"
    expect(page).to have_field("Alert me when")
    click_button "Mark all as read" if page.has_button?("Mark all as read", wait: 0)
    expect(page).to have_no_css("a", text: /\A\d+ alerts?\z/)
    select "too many churned people are reactivated", from: "Alert me when"
    fill_in "by more than", with: "5"
    click_button "Add alert rule"
    expect(page).to have_css("[data-testid='alerts']", text: "of those called churned at 90 inactive days are reactivated within 90 days")
    expect(page).to have_link("1 alert")
    click_button "Mark all as read"
    expect(page).to have_no_link("1 alert")
    fill_in "by more than", with: "500"
    click_button "Add alert rule"
    expect(page).to have_css("li", text: "more than 5% of those called churned", count: 1)
    find("button[aria-label^='Delete the alert rule']").click
    expect(page).to have_no_css("li", text: "more than 5% of those called churned")
  end
end
