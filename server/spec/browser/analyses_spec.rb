# frozen_string_literal: true

require_relative "browser_helper"

# What people do, as an analyst asks it: a sentence is changed, a figure opened, a group kept.
RSpec.describe "analyses of events", type: :feature do
  before { sign_in }

  after { quiet_browser }

  def did(event, from, to, **more) = { "did" => { "event" => event, "window" => { "from" => from.iso8601, "to" => to.iso8601 }, **more } }

  def opened = find("[data-testid='people-total']").text

  it "asks how many people do something week by week, changes the question, and keeps those of a week" do
    visit "/analyses"
    click_link "How many people do something, how often, and how is it changing?"
    expect(page).to have_css("[data-testid='finding']", text: /people .* in the last complete week, 19 Oct 2026 to 25 Oct 2026/)
    week = members(did("bike_unlocked", Date.new(2026, 10, 19), Date.new(2026, 10, 25))).len
    expect(find("[data-testid='finding']").text).to start_with("#{shown(week)} people unlocked a bike")
    select "How many times people", from: "Measure"
    expect(page).to have_css("[data-testid='finding']", text: /People unlocked a bike [\d,]+ times in the last complete week/)
    select "plan (at the time)", from: "Split by"
    expect(page).to have_css("[data-testid='line-key'] li", count: 4)
    expect(page).to have_text("People are told apart by what “plan” was when they did it.")
    select "How many people", from: "Measure"
    expect(page).to be_axe_clean
    monthly = { "where" => [{ "attribute" => "plan", "compare" => "is", "value" => "monthly pass" }] }
    expected = members({ "did" => { **did("bike_unlocked", Date.new(2026, 10, 19), Date.new(2026, 10, 25))["did"], **monthly } }).len
    row = find("[data-testid='table-lines'] tr", text: "monthly pass")
    click_button "Show monthly pass in the chart"
    expect(page).to have_current_path(/hidden=1/)
    row.all("a").find { |link| link.text == shown(expected) }.click
    expect(opened).to start_with("#{shown(expected)} people")
    page.go_back
    find("[data-testid='table-lines'] a[aria-label='Create audience: monthly pass']").click
    expect(page).to say("who unlocked a bike at least once where plan (at the time) is monthly pass")
    shown_definition = JSON.parse(find("textarea[aria-label='The definition as JSON']", visible: :all).value)
    expect(size).to eq(members(shown_definition).len)
  end

  it "finds the broken quarter, reads it with the keyboard, and takes the event along to how often people do it" do
    visit "/analyses/trends?event=ride_ended&by=event:quarter&measure=times"
    expect(find("[data-testid='finding']").text).to end_with("The largest jump: “Tannery Quay” down by 100% in the week 6 Jul 2026 to 12 Jul 2026.")
    picture = find("svg[aria-label^='times, by week']")
    picture.send_keys(*([:left] * 10))
    expect(find("[data-testid='line-key'] p").text).to match(/\A\d+ Aug 2026 to \d+ Aug 2026\z/)
    within("nav[aria-label='Analyses']") { click_link "Frequency" }
    expect(page).to have_css("[data-testid='question']", text: "ended a ride")
  end

  it "divides one event by another, and begins with the data" do
    visit "/analyses/trends?event=ride_ended"
    click_button "+ Add event"
    select "per", from: "Combine events"
    expect(page).to have_css("[data-testid='line-key'] li", count: 1, text: "ended a ride per")
    visit "/analyses/trends?event=ride_ended&range=all&step=day&from=1990-01-01"
    expect(page).to have_text(/The data begins on .*, after the start of the range/)
    select "month by month", from: "Step"
    expect(page).to have_css("[data-testid='finding']")
  end

  it "ranks what people do, leaves something out, and goes on to its trend" do
    visit "/analyses/ranking"
    rides = members(did("ride_ended", as_of - 29, as_of)).len
    expect(find("[data-testid='table-ranking'] tr", text: "ride ended")).to have_link(shown(rides))
    click_button "Remove message received"
    expect(page).to have_no_css("a[aria-label^='message received:']")
    find("a[aria-label='ride ended: #{shown(rides)}']").click
    expect(opened).to start_with("#{shown(rides)} people")
    page.go_back
    click_link "fault reported Trend over time"
    expect(page).to have_css("[data-testid='question']", text: "reported a fault")
  end

  it "follows people from event to event, opens a way, and keeps those who went it" do
    visit "/analyses/next-events?event=trip_planned&depth=3"
    expect(find("[data-testid='finding']").text).to include("most often “bike unlocked”: 91% of the times")
    link = { "next" => true, "same_visit" => true }
    steps = [{ "event" => "trip_planned" }, { "event" => "bike_unlocked", **link }, { "event" => "ride_ended", **link }]
    window = { "from" => (as_of - 89).iso8601, "to" => as_of.iso8601 }
    expected = members({ "order" => { "steps" => steps, "window" => window } }).len
    expect(page).to be_axe_clean
    row = find("[data-testid='table-paths'] tr", text: "bike unlocked → ride ended", match: :first)
    row.click_link(shown(expected))
    expect(opened).to start_with("#{shown(expected)} people")
    page.go_back
    within("[data-testid='next-key']") { click_link "bike unlocked" }
    expect(page).to have_css("[data-testid='finding']", text: "People unlocked a bike")
    select "before", from: "After or before"
    expect(page).to have_css("[data-testid='finding']", text: "Right before it, most often “trip planned”")
  end

  it "tells how often people do something, where two plans differ, and keeps those of a bar" do
    visit "/analyses/frequency?event=ride_ended&from=2026-08-01&by=attribute:plan"
    expect(find("[data-testid='finding']").text).to start_with("“monthly pass” did it most often")
    monthly = { "attribute" => { "name" => "plan", "compare" => "is", "value" => "monthly pass" } }
    often = { "count" => { "at_least" => 21 } }
    expected = members({ "all" => [monthly, did("ride_ended", Date.new(2026, 8, 1), as_of, **often)] }).len
    row = find("[data-testid='table-buckets'] tr", text: "21 or more")
    row.all("a").find { |link| link.text == shown(expected) }.click
    expect(opened).to start_with("#{shown(expected)} people")
    page.go_back
    select "days", from: "Counted by"
    expect(page).to have_css("[data-testid='table-buckets'] th", text: "Days")
    find("a[aria-label^='monthly pass, 21 or more:']").click
    days = { "count" => { "at_least" => 21, "of" => "days" } }
    expect(opened).to start_with("#{shown(members({ "all" => [monthly, did("ride_ended", Date.new(2026, 8, 1), as_of, **days)] }).len)} people")
    visit "/analyses/frequency?event=ride_ended&compare=1,3"
    expect(page).to have_css("[data-testid='finding']", text: /Largest difference between|No significant difference/)
  end

  it "tells how long visits are, opens an hour of the week, narrows the days by drawing across the picture, and keeps long visits" do
    visit "/analyses"
    click_link "How often, how long and when do people visit?"
    expect(page).to have_css("[data-testid='finding']", text: /visits by [\d,]+ people .* single-event/)
    click_button "by hour of the week"
    first("a[aria-label^='Sunday 11:00 to 12:00:']").click
    began = { "from" => "2025-10-27", "to" => as_of.iso8601, "weekdays" => [7], "hours" => [11, 12] }
    expect(opened).to start_with("#{shown(members({ "visited" => { "window" => began } }).len)} people")
    page.go_back
    click_button "over time"
    picture = find("svg[aria-label^='visits, by week']")
    of_all = find("[data-testid='finding']").text
    page.driver.browser.action.move_to(picture.native, -200, 0).click_and_hold.move_by(120, 0).release.perform
    expect(page).to have_current_path(/from=2026-\d\d-\d\d.*to=2026-\d\d-\d\d/)
    # What stands below the picture moves when the answer comes.
    expect(page).to have_no_css("[data-testid='finding']", exact_text: of_all)
    expect(page).to have_css("[data-testid='finding']", text: /people paid [\d,]+ visits/)
    click_button "Reset zoom"
    expect(page).to have_no_current_path(/to=2026/)
    click_button "by length"
    find("a[aria-label^='all people, 30–60 min:']").click
    long = { "visited" => { "length" => { "at_least" => 1_800, "below" => 3_600 }, "events" => { "at_least" => 2 }, "window" => began.slice("from", "to") } }
    expect(opened).to start_with("#{shown(members(long).len)} people")
  end

  it "tells what people do in their first and later visits, and opens who got how far and who did it there" do
    visit "/analyses/experience?event=trip_planned&also=#{CGI.escape(JSON.generate([{ event: "ride_ended" }]))}"
    expect(page).to have_css("[data-testid='finding']", text: /From visits 4–5 on, “ended a ride” is done more often than “planned a trip”/)
    find("a[aria-label^='reached, 6–10:']").click
    expect(opened).to start_with("#{shown(members({ "visited" => { "count" => { "at_least" => 6 } } }).len)} people")
    page.go_back
    find("a[aria-label^='planned a trip, 1:']").click
    first_visit = { "visited" => { "number" => { "at_least" => 1, "at_most" => 1 }, "doing" => [{ "event" => "trip_planned" }] } }
    expect(opened).to start_with("#{shown(members(first_visit).len)} people")
    page.go_back
    select "week since first seen", from: "Stage"
    expect(page).to have_css("[data-testid='table-places'] th", text: "Per week")
  end

  it "tells who comes back, and opens those of a cohort who did not" do
    visit "/analyses/retention?event=pass_bought&return=ride_ended&step=month"
    expect(page).to have_css("[data-testid='finding']", text: /Of [\d,]+ people who bought a pass for the first time, \d+% \(95% interval .*\) ended a ride in month 1/)
    find("button[aria-label*='December 2025, month 2,']").click
    expect(page).to have_css("[data-testid='cell']", text: /returned, month 2/)
    expect(page).to be_axe_clean
    click_link "Did not return"
    began = { "first" => { "event" => "pass_bought", "window" => { "from" => "2025-12-01", "to" => "2025-12-31" } } }
    back = { "did" => { "event" => "ride_ended", "window" => { "from" => "2026-02-01", "to" => "2026-02-28" } } }
    expect(opened).to start_with("#{shown(members({ "all" => [began, { "not" => back }] }).len)} people")
  end

  it "tells what people have brought in since their first time, against what it cost to win them" do
    visit "/analyses/cohort-value?event=pass_bought&step=month"
    expect(page).to have_css("[data-testid='finding']", text: /A person who bought a pass for the first time has brought in [\d.]+ orrins \(95% interval .*\) by month \d+\./)
    select "fixed:", from: "Acquisition cost"
    fill_in "Acquisition cost per person", with: "30\n"
    expect(page).to have_css("[data-testid='finding']", text: /The 30.00 orrins it cost to win a person has come back by month \d/)
    expect(page).to be_axe_clean
    within("[data-testid='table-cohorts_0']") { first("tbody a").click }
    began = { "first" => { "event" => "pass_bought", "window" => { "from" => "2025-11-01", "to" => "2025-11-30" } } }
    expect(opened).to start_with("#{shown(members(began).len)} people")
  end

  it "follows people from step to step, opens who stopped, moves steps by keys, and begins an audience with those lost" do
    steps = %w[ride_ended pass_bought].map { |event| { event: event } }
    visit "/analyses/funnel?event=trip_planned&within=14+days&then=#{CGI.escape(JSON.generate(steps))}"
    expect(page).to have_css("[data-testid='finding']", text: /Of [\d,]+ people who planned a trip, .* went on to the end within 14 days: they bought a pass/)
    find("a[aria-label*='stopped after step 2']").click
    window = { "window" => { "from" => "2026-08-03", "to" => "2026-10-31" } }
    order = ->(*events) { { "order" => { "steps" => events.map { |event| { "event" => event } }, "within" => { "days" => 14 }, **window } } }
    stopped = { "all" => [order.call("trip_planned", "ride_ended"), { "not" => order.call("trip_planned", "ride_ended", "pass_bought") }] }
    expect(opened).to start_with("#{shown(members(stopped).len)} people")
    page.go_back
    find("button[aria-label^='Step 3 of 3']").send_keys(:left)
    expect(page).to have_current_path(/pass_bought.*ride_ended/)
    click_link "Create audience", match: :first
    expect(page).to have_button("All within: all within 14 days", minimum: 1)
  end

  it "writes a note by a click below a picture, sees it on others, and removes it" do
    visit "/analyses/trends?event=ride_ended&range=90"
    expect(page).to have_css("[data-testid='notes']", text: "Add note")
    page.driver.browser.action.move_to(find("[data-testid='note-here']", visible: :all).native, 0, 4).click.perform
    fill_in "Note text", with: "A new kiosk"
    expect(page).to be_axe_clean
    click_button "Save"
    expect(page).to have_css("[data-testid='noted']", text: "A new kiosk")
    visit "/?range=90"
    expect(page).to have_css("[data-testid='notes']", text: "A new kiosk")
    visit "/data/notes"
    uncheck "notes"
    visit "/?range=90"
    expect(page).to have_css("[data-testid='finding']")
    expect(page).to have_no_css("[data-testid='noted']")
    visit "/data/notes"
    check "notes"
    click_button "A new kiosk"
    click_button "Remove"
    expect(page).to have_no_css("[data-testid='notes-table']", text: "A new kiosk")
    click_button "Undo"
    expect(page).to have_css("[data-testid='notes-table']", text: "A new kiosk")
    click_button "A new kiosk"
    click_button "Remove"
  end

  it "keeps an analysis under a name, changes it, opens it from the list, and deletes it" do
    visit "/analyses/frequency?event=ride_ended&from=2026-10-01"
    click_button "Save analysis"
    fill_in "Name", with: "How often in a month"
    fill_in "Folder", with: "Mine"
    click_button "Save"
    expect(page).to have_css("[data-testid='saved-bar']", text: "How often in a month, in Mine, version 1, rolling dates")
    select "days", from: "Counted by"
    click_button "Save changes"
    expect(page).to have_css("[data-testid='saved-bar']", text: "version 2")
    expect(page).to be_axe_clean
    visit "/analyses?as_of=2026-09-30"
    within("[data-testid='saved-list']") { click_link "How often in a month" }
    expect(page).to have_css("[data-testid='saved-bar']", text: "version 2, rolling dates")
    expect(page).to have_select("Counted by", selected: "days")
    click_button "Version history"
    click_link "version 1"
    expect(page).to have_select("Counted by", selected: "times")
    click_button "Edit details…"
    click_button "Delete"
    expect(page).to have_css("[data-testid='saved-bar']", text: "Save analysis")
    visit "/analyses"
    expect(page).to have_css("[data-testid='saved-list']", text: "From planning to riding")
    expect(page).to have_no_css("[data-testid='saved-list']", text: "How often in a month")
  end

  it "writes a page of a saved analysis and words, reads it, says something about it, and deletes it" do
    visit "/analyses/pages"
    fill_in "Name", with: "For the board"
    click_button "Create report"
    click_button "Edit"
    click_button "+ heading"
    fill_in "heading, block 1", with: "How long people ride"
    add "Length of visits by plan", "a saved analysis"
    expect(page).to have_css("[data-testid='block-writer']", text: "Longest visits")
    select "By length: Share", from: "Chart"
    click_button "+ text"
    fill_in "text, block 3", with: "Nothing else changed."
    click_button "Move up: text, block 3"
    add "Dormant commuters", "an audience"
    expect(page).to be_axe_clean
    click_button "Save report"
    expect(page).to have_css("article h2", text: "How long people ride")
    expect(page).to have_css("[role='group'][aria-label='Share: By length'] rect")
    words = find("article").text
    expect(words.index("Nothing else changed.")).to be < words.index("Longest visits")
    size = find("article a", text: /\A[\d,]+\z/).text
    expect(size).to eq(shown(members({ "audience" => { "id" => 2 } }).len))
    fill_in "Your comment", with: "Why do day passes have single events?"
    click_button "Post comment"
    expect(page).to have_css("[data-testid='comments'] li", text: "Why do day passes")
    html = evaluate_async_script("const done = arguments[0]; fetch(document.querySelector('article a[download]').href).then((file) => file.text()).then(done)")
    expect(html).to include("How long people ride", "Nothing else changed.", "<rect").and match(/As of \d+ Oct 2026/)
    visit "/analyses/pages"
    click_link "For the board"
    click_button "delete"
    expect(page).to have_css("[data-testid='pages']", text: "Every Monday")
    expect(page).to have_no_css("[data-testid='pages']", text: "For the board")
  end

  def do_to_condition(what)
    find("button[aria-label^='Change condition']").click
    click_button what
  end

  it "writes an audience of visits by hand" do
    visit "/audiences/new"
    size
    click_button "More conditions…"
    within("[data-part='content'][data-state='open']") { click_button "who visited…" }
    take("Visits", "a visit of 10 minutes or more")
    fill_in "Visits", with: "2"
    close
    expect(page).to say("at least 2 visits")
    expect(page).to say("of at least 10 min")
    do_to_condition("Add event in the visit")
    do_to_condition("Set how often bike unlocked")
    expect(page).to say("in which they unlocked a bike at least twice")
    asked = { "visited" => { "count" => { "at_least" => 2 }, "length" => { "at_least" => 600 }, "window" => { "last_days" => 30 },
                             "doing" => [{ "event" => "bike_unlocked", "count" => { "at_least" => 2 } }] } }
    expect(page).to have_css("[data-testid='size']", text: shown(members(asked).len))
  end
end
