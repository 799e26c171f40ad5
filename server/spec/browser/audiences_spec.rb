# frozen_string_literal: true

require_relative "browser_helper"
require "json"

# Audiences in full, through the real interface: every condition by its phrases, why, who came and went, comparison, analyses.
RSpec.describe "audiences", type: :feature do
  include_context "with a clear desk"

  def keep(name, json)
    visit "/audiences/new?#{URI.encode_www_form(name: name, definition: JSON.generate(json))}"
    expect(size).to eq(members(json).len)
    click_button "Save"
    expect(page).to have_text("version 1")
    page.current_path[/\d+/].to_i
  end

  # Once the size stands nothing moves any more.
  def add(condition)
    size
    click_button "More conditions…"
    within("[data-part='content'][data-state='open']") { click_button condition }
  end

  def definition = JSON.parse(find("textarea[aria-label='The definition as JSON']", visible: :all).value)

  def ride(**more) = { "did" => { "event" => "ride_ended", **more.transform_keys(&:to_s) } }

  it "writes an order of events by its phrases, and takes changes back and does them again" do
    visit "/audiences/new"
    add "who did one thing and then not another …"
    fill_in "First step: event type", with: "trip plnned" # a slip of the finger
    send_keys(:enter)
    choose_option "Event type", /\Aride ended/
    expect(page).to say("who planned a trip at any time but have not ended a ride within 7 days")
    change "Within: within 7 days"
    fill_in "How long", with: "2"
    select "hours", from: "Unit"
    close
    change "When: at any time"
    select "in the last … days", from: "When"
    fill_in "Days", with: "20"
    close
    find("button[aria-label^='Change condition who planned']").click
    click_button "… and then another step"
    change "How it follows: then"
    check "in the same visit"
    close
    expect(page).to say("who planned a trip and then in the same visit unlocked a bike in the last 20 days but have not ended a ride within 2 hours")
    json = { "order" => { "steps" => [{ "event" => "trip_planned" }, { "event" => "bike_unlocked", "same_visit" => true }], "window" => { "last_days" => 20 },
                          "then_not" => { "event" => "ride_ended", "within" => { "hours" => 2 } } } }
    expect(size).to eq(members(json).len)

    find("h1", visible: :all)
    find("body").send_keys([:control, "z"])
    expect(page).to say("who planned a trip and then unlocked a bike in the last 20 days")
    find("body").send_keys(%i[control shift] + ["z"])
    expect(page).to say("who planned a trip and then in the same visit unlocked a bike")
    expect(page).to be_axe_clean
  end

  it "asks what held the first time somebody did something" do
    visit "/audiences/new"
    add "who did it for the first time …"
    take "Event type", /\Aride ended/
    select "at any time", from: "When"
    close
    find("button[aria-label^='Change condition who ended a ride']").click
    click_button "Add a condition on the first time"
    expect(page).to say("who ended a ride for the first time at any time and then")
    json = definition["all"].first
    expect(json["first"]["then"].size).to eq(1)
    expect(size).to eq(members(json).len)
    expect(page).to be_axe_clean
  end

  it "counts by days, measures a property, sees several event types, lists of values, hours of the day, and states over time" do
    visit "/audiences/new"
    start "who did …", "Event type", /\Aride ended/
    expect(page).to have_field("Times")
    close
    change "Event type: "
    click_button "or another event type …"
    choose_option "Event type", /\Atrip planned/
    change "How often: at least once"
    fill_in "Times", with: "4"
    select "different days", from: "Counted by"
    close
    change "When: in the last 30 days"
    find("summary", text: "weekdays").click
    check "Mondays"
    check "Tuesdays"
    close
    expect(page).to say("who ended a ride or planned a trip on at least 4 days in the last 30 days on Mondays or Tuesdays")
    days = { "did" => { "events" => %w[ride_ended trip_planned], "count" => { "at_least" => 4, "of" => "days" }, "window" => { "last_days" => 30, "weekdays" => [1, 2] } } }
    expect(size).to eq(members(days).len)

    start "who did …", "Event type", /\Aride ended/
    select "by a property …", from: "How often"
    select "most frequent", from: "What is taken"
    select "quarter", from: "Of which property"
    close
    change "Comparison: is"
    choose_option "Comparison", "is one of"
    change "Value: "
    choose_option "Another value", /\ASaltmarsh/
    expect(page).to say(/and whose most frequent quarter is one of .* or Saltmarsh/)
    expect(size).to eq(members(definition).len)

    start "who are in a state …", "State", "dormant"
    change "State: dormant"
    check "active"
    uncheck "dormant"
    select "for at least … days", from: "When"
    fill_in "Days", with: "60"
    close
    expect(page).to say("who have been active for at least 60 days")
    add "who can be reached …"
    take "Channel", "email"
    add "whose attribute changed …"
    take "Attribute", /\Aplan/
    close
    expect(page).to have_css("[data-testid='line']", count: 5)
    expect(size).to eq(members(definition).len)
  end

  it "nests and moves conditions by the keyboard and by dragging, tells what each branch adds, and copies a condition" do
    json = { "all" => [ride(window: { "last_days" => 10 }), { "did" => { "event" => "pass_bought", "window" => { "last_days" => 30 } } },
                       { "did" => { "event" => "fault_reported", "window" => { "last_days" => 30 } } }] }
    visit "/audiences/new?#{URI.encode_www_form(definition: JSON.generate(json))}"
    number = ->(text) { find("[role='group'][aria-label^='Condition who #{text}']") }
    number.call("bought a pass").send_keys(%i[alt right])
    expect(page).to have_css("[data-place='all[1].any[0]']")
    number.call("reported a fault").send_keys(%i[alt right])
    expect(page).to have_css("[data-place='all[1].any[1]']", text: "reported a fault")
    nested = { "all" => [json["all"][0], { "any" => json["all"][1..] }] }
    expect(size).to eq(members(nested).len)
    alone = members({ "all" => [json["all"][2], { "not" => json["all"][1] }] }).len
    expect(find("[data-place='all[1].any[1]'] [data-testid='branch']").text).to end_with("adds #{shown(alone)}")

    number.call("reported a fault").send_keys(%i[alt left])
    expect(page).to have_css("[data-place='all[2]']", text: "reported a fault")
    number.call("reported a fault").send_keys(%i[alt up])
    expect(page).to have_css("[data-place='all[1]']", text: "reported a fault")
    number.call("reported a fault").drag_to(number.call("ended a ride"), html5: true)
    expect(page).to have_css("[data-place='all[0]']", text: "reported a fault")
    number.call("reported a fault").send_keys(:delete)
    expect(page).to have_css("[data-place='all[0]']", text: "ended a ride")
    expect(page).to have_css("[data-place='all[1].any[0]']", text: "bought a pass")
  end

  it "says why somebody is out, and from her own page which audiences she is in and since when" do
    json = { "all" => [ride(count: { "at_least" => 3 }, window: { "last_days" => 30 })] }
    id = keep("Often lately", json)
    counts = generation.events("ride_ended").filter(Polars.col("day") > Estrel::Calendar.number(as_of) - 30).group_by("profile_id").agg([Polars.len.alias("n")])
    twice = counts.filter(Polars.col("n") == 2)["profile_id"].min
    visit "/audiences/#{id}?why=#{twice}"
    within("[data-testid='why']") do
      expect(page).to have_text("does not match: one condition is not met.")
      expect(page).to have_text("ended a ride twice in the last 30 days; asked: at least 3 times")
      expect(page).to have_text("nearest to being in")
    end
    expect(page).to be_axe_clean
    often = members(json)[0]
    visit "/people/#{often}"
    row = find("[data-testid='person-audiences'] li", text: "Often lately")
    since = (0..366).find { |ago| !members(json, on: as_of - ago).to_a.include?(often) }
    expect(row).to have_text("since #{(as_of - since + 1).strftime("%-d %b %Y")}")
    row.click_link("Often lately")
    expect(page).to have_css("[data-testid='why']", text: "matches: all conditions are met.")
  end

  it "tells who came and who went, and makes them an audience" do
    json = { "all" => [ride(window: { "last_days" => 7 })] }
    id = keep("This week", json)
    earlier = as_of - 30
    now, before = [as_of, earlier].map { |date| members(json, on: date).to_a }
    expect(find("[data-testid='moved']").text).to include("#{shown((now - before).size)} entered, #{shown((before - now).size)} left, #{shown((now & before).size)} stayed")
    within("[data-testid='over-time']") { first(:link, "Create audience").click }
    expect(page).to say("who are in “This week”")
    expect(size).to eq((now - before).size)
    expect(id).to be_positive
  end

  it "chooses audiences, compares the base and people by them, and keeps the comparison over a reload" do
    visit "/audiences"
    click_button "Compare: Met the broken docks"
    click_button "Compare: Dormant commuters"
    expect(page).to have_current_path(/compare=3%2C2/)
    click_on "Lifecycle"
    docks = members(kept(3).last)
    states = lifecycle.states(as_of).filter(Polars.col("profile_id").is_in(docks))["state"].to_a.tally
    expect(find("[data-testid='table-groups'] tr", text: "Met the broken docks").text).to include(shown(states["active"]), shown(docks.len))
    expect(page).to be_axe_clean
    click_on "People", match: :first
    expect(page).to have_css("th", text: "In")
    visit "/"
    expect(page).to have_css("[data-testid='comparison']", text: "Dormant commuters")
    click_button "Remove Dormant commuters from the comparison"
    expect(page).to have_no_css("[data-testid='comparison']", text: "Dormant commuters")
  end

  it "tells how audiences overlap, and makes parts of it an audience" do
    visit "/analyses/overlap?compare=1,3"
    far, docks = [1, 3].map { |id| members(kept(id).last).to_a }
    both = (far & docks).size
    expect(find("[data-testid='finding']").text).to start_with("#{shown((far | docks).size)} people are in at least one of them, #{both} in both.")
    expect(page).to be_axe_clean
    rows = all("[data-testid='table-combinations'] tbody tr").map { |row| row.all("td")[2].text }
    expect(rows).to match_array([(far - docks).size, (docks - far).size, both].map { |count| shown(count) })
    names = [1, 3].map { |id| kept(id).first }
    check "Choose #{names.join(" and ")}"
    check "Choose #{names.join(", not ")}"
    click_link "create an audience"
    expect(size).to eq(far.size)
    visit "/analyses/overlap?compare=1,3&by=attribute:plan"
    expect(page).to have_css("[data-testid='table-combinations'] th", text: "pay as you go")
    within("[data-testid='table-combinations']") { click_link "CSV" }
    file = File.join(DOWNLOADS, "combinations.csv")
    80.times { File.exist?(file) ? break : sleep(0.1) }
    expect(File.read(file).lines.first.strip).to eq("in,people,share,lift,split_0,split_1,split_2")
  end

  it "breaks two audiences down, with the difference, and opens a row as people and as an audience" do
    visit "/analyses/breakdown?compare=1,3&by=attribute:home_quarter"
    docks = members(kept(3).last)
    attribute = { "attribute" => { "name" => "home_quarter", "compare" => "is", "value" => "Tannery Quay" } }
    here = members({ "all" => [{ "audience" => { "id" => 3 } }, attribute] }).len
    row = find("[data-testid='table-breakdown'] tr", text: "Tannery Quay")
    expect(row.text).to include(shown(here), "#{(100.0 * here / docks.len).round}%")
    expect(page).to have_css("[data-testid='finding']", text: "95% interval")
    expect(page).to be_axe_clean
    row.click_link(shown(here))
    expect(find("[data-testid='people-total']").text).to start_with("#{shown(here)} people found")
    visit "/analyses/breakdown?by=property:most_frequent:ride_ended:quarter"
    find("[data-testid='table-breakdown'] a[aria-label='Create audience: Saltmarsh']").click
    expect(page).to say("whose most frequent quarter is Saltmarsh")
    expect(size).to eq(members(definition).len)
  end

  it "loses nothing when two windows edit one audience" do
    id = keep("Two at once", { "all" => [ride(count: { "at_least" => 2 })] })
    mine = page.current_window
    theirs = open_new_window
    within_window(theirs) do
      visit "/audiences/#{id}"
      change "How often: at least twice"
      fill_in "Times", with: "5"
      close
      find("summary", text: "Folder and note").click
      find("summary", text: "Folder and note").click
      click_button "Save"
      expect(page).to have_text("version 2")
    end
    within_window(mine) do
      change "How often: at least twice"
      fill_in "Times", with: "9"
      close
      expect(page).to say("at least 9 times")
      click_button "Save"
      within("[data-testid='conflict']") do
        expect(page).to have_text("at least 5 times")
        expect(page).to have_text("at least 9 times")
        click_button "Save mine instead"
      end
      expect(page).to have_text("version 3")
      find("summary", text: "3 versions").send_keys(:enter)
      expect(page).to have_css("option", text: "version 2 by demo@ferrowick.example, ")
    end
    theirs.close
  end

  it "starts from a ready definition, files it, finds it, and brings one in from a file" do
    visit "/audiences"
    point = find("[data-testid='starting-points'] li", text: "About to go dormant")
    count = point.text.split.first.delete(",").to_i
    point.click_link
    expect(size).to eq(count)
    find("summary", text: "Folder and note").click
    fill_in "Folder", with: "Watch"
    fill_in "Note", with: "ask on Mondays"
    visit page.current_url
    find("summary", text: "Folder and note").click
    expect(page).to have_field("Folder", with: "Watch")
    find("summary", text: "Folder and note").click
    click_button "Save"
    expect(page).to have_text("version 1")
    visit "/audiences"
    expect(page).to have_link("Watch")
    click_link "Watch"
    expect(all("tbody tr").size).to eq(1)
    fill_in "Find an audience", with: "nothing like it"
    expect(page).to have_text("No audiences match.")
    file = File.join(DOWNLOADS, "from-elsewhere.json")
    File.write(file, JSON.generate({ "all" => [{ "profile_type" => { "is" => ["visitor"] } }] }))
    find("input[aria-label='A definition as a file']", visible: :all).attach_file(file)
    expect(page).to have_field("Name of the audience", with: "from-elsewhere")
    expect(size).to eq(800 - (12_000 - generation.base_size))
  end

  it "asks using data received by an earlier date" do
    visit "/audiences/1?received_by=2026-02-16&as_of=2026-02-15"
    expect(page).to have_text("using data received by 16 Feb 2026")
    known = generation.received_by(Date.new(2026, 2, 16))
    asked = Estrel::Audience::Evaluator.new(known, as_of: Date.new(2026, 2, 15), rule_set: rule_set)
    expect(size).to eq(asked.size(Estrel::Audience::Definition.parse(kept(1).last, catalogue: generation.catalogue)))
  end
end
