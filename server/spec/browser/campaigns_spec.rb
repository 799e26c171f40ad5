# frozen_string_literal: true

require_relative "browser_helper"

RSpec::Matchers.define_negated_matcher :not_include, :include

# From exporting to what came of it: pushing to the messaging stand-in, campaigns, before and after.
RSpec.describe "campaigns", type: :feature do
  include_context "with a clear desk"

  # Asks the stand-in on its own page to do something wrong.
  def trouble(kind, requests)
    visit "http://127.0.0.1:#{ENV.fetch("ESTREL_STAND_IN_PORT")}/"
    fill_in "trouble_left", with: requests
    find("select[name='trouble']").find("option[value='#{kind}']").select_option
    fill_in "day_seconds", with: "0.001"
    page.execute_script("document.body.className = 'before'")
    click_button "Save"
    expect(page).to have_no_css("body.before") # or the next visit may be overtaken by it
  end

  def newest_run(text) = have_css("[data-testid='runs'] tbody tr:first-child", text: text, normalize_ws: true, wait: 20)

  it "tells what came of campaigns and how people respond, and makes audiences of it" do
    visit "/exports/campaigns"
    results = analysed("campaign-results")
    expect(find("[data-testid='finding']").text).to eq(results.finding)
    spring = results.picture[:campaigns].find { |row| row["campaign"] == "spring_hello" }
    row = find("[data-testid='table-campaigns'] tr", text: "Spring hello")
    expect(row).to have_link(shown(spring["opened"]))
    expect(row).to have_link(shown(spring["back"]))
    row.click_link "Spring hello"
    expect(page).to be_axe_clean
    churned = find("[data-testid='table-states'] tr", text: /\Achurned/)
    churned.click_link "Create audience: churned"
    expect(page).to say("were sent a message of “Spring hello” by email received while churned")
    page.go_back
    ignored = results.tables[1].rows.find { |row| row.values.first(3) == ["Spring hello", "email", "churned"] }
    find("[data-testid='table-states'] tr", text: /\Achurned/).click_link shown(ignored.values[8])
    ignored = { "campaign" => { "was" => "ignored", "name" => "spring_hello", "channel" => "email", "from" => ["churned"], "window" => { "to" => "2026-10-28" } } }
    expect(page).to have_css("[data-testid='people-total']", text: /\A#{shown(members(ignored).len)} people/)
    visit "/exports/campaigns"
    select "email", from: "Messages by"
    band = find("[data-testid='response-map'] tr", text: "20 to 40%")
    band.first("a").click
    expect(page).to say("who responded to at least 20% and less than 40% of messages by email")
    expect(size).to eq(members({ "campaign" => { "share" => { "at_least" => 0.2, "less_than" => 0.4 }, "channel" => "email" } }).len)
    change "Messages: at least 20%"
    select "ignored it", from: "What they did"
    expect(page).to say("who ignored the last 5 messages by email")
    send_keys(:escape)
    expect(size).to eq(members({ "campaign" => { "was" => "ignored", "last" => 5, "channel" => "email" } }).len)
  end

  it "looks at what people did before and after, beside people like them" do
    visit "/analyses/before-after?first=message_opened&event=ride_ended&from=2026-03-10&to=2026-03-31&before=14&after=14"
    study = analysed("before-after", first: { event: "message_opened" }, metric: { event: "ride_ended" }, from: "2026-03-10", to: "2026-03-31", before: 14, after: 14)
    expect(find("[data-testid='finding']").text).to eq(study.finding)
    # The spring campaign was planted to bring them back.
    expect(study.picture[:matched][:difference][:low]).to be_positive
    expect(find("[data-testid='table-sides'] tr", text: "Similar people who had not")).to have_text(study.finding[/who had not went from \S+ to ([\d.]+)/, 1])
    # As far as what is measured tells, they were alike.
    expect(study.picture[:matched][:balance].map { |row| row[:after].to_f.abs }).to all(be < 0.1)
    expect(page).to have_css("[data-testid='table-balance'] tr", text: "Days inactive on the day before")
    expect(page).to be_axe_clean
    select "a date", from: "Day 0"
    expect(page).to have_css("[data-testid='finding']", text: "who were there before")
    fill_in("Days before", with: "0").send_keys(:tab)
    expect(page).to have_css("[role=status]", text: "something under before that could not be read")
  end

  it "pushes to a destination, goes on after it went wrong, and hears what became of it" do
    visit "/exports/keeping"
    click_button "Try it: Ferrowick Post"
    expect(page).to have_text("It works")
    select "webhook", from: "A new"
    fill_in "called", with: "Inside"
    fill_in "at the address", with: "https://10.1.2.3/"
    click_button "Create the destination"
    expect(page).to have_css("[data-testid='secret'] code", text: /whsec_/)
    click_button "Done"
    click_button "Try it: Inside"
    expect(page).to have_text("10.1.2.3 is inside the network")
    click_button "Edit Ferrowick Post"
    fill_in "people in a message", with: "100"
    click_button "Save Ferrowick Post"
    expect(page).to have_css("[data-testid='destinations'] tr", text: "100 people in a message")
    expect(page).to be_axe_clean
    lively = { "did" => { "event" => "ride_ended", "count" => { "at_least" => 3 }, "window" => { "last_days" => 7 } } }
    id = api(:post, "/audiences", { name: "Lively", definition: { "all" => [lively] } })["id"]
    post = api(:get, "/destinations")["destinations"].find { |row| row["name"] == "Ferrowick Post" }["id"]
    export = api(:post, "/exports", { name: "Ride on", audience_id: id, destination_id: post, rules: { columns: [{ take: "address" }, { take: "state" }], channel: "email" } })["id"]
    trouble("page", 1)
    visit "/exports/#{export}?as_of=2026-09-01"
    click_button "Export"
    expect(page).to newest_run("answered 200 with a web page")
    people = api(:get, "/exports/#{export}")["runs"].first["people"]["exported"]
    trouble("refuses", 1)
    visit "/exports/#{export}?as_of=2026-09-01"
    click_button "Continue with the other #{shown(people)}", wait: 20
    expect(page).to newest_run("rejected; ")
    expect(page).to be_axe_clean
    click_button "Retry", wait: 20
    expect(page).to newest_run("#{shown(people)} of #{shown(people)} accepted by the destination;")
    visit "/exports/campaigns?as_of=2026-09-10"
    found = nil
    60.times { (found = api(:post, "/analyses/campaign-results", { as_of: "2026-09-10" })["picture"]["campaigns"].find { |row| row["campaign"] == "Ride on" }) && found["messages"] + found["bounced"] == people ? break : sleep(0.5) }
    visit "/exports/campaigns?as_of=2026-09-10"
    expect(find("[data-testid='table-campaigns'] tr", text: "Ride on")).to have_text(shown(people))
    expect(find("[data-testid='table-campaigns'] tr", text: "Ride on")).to have_link(shown(found["messages"]))
    expect(found["opened"]).to be_positive
  end

  it "has accounts, tokens and a log, and shows viewers no personal data" do
    visit "/account/all"
    fill_in "A new account for", with: "vi@estrel.example"
    select "viewer", from: "as"
    click_button "Create account"
    link = find("[data-testid='link'] code").text
    expect(page).to be_axe_clean
    visit "/account"
    fill_in("A new token for", with: "nightly").send_keys(:enter)
    expect(page).to have_css("[data-testid='token'] code", text: /et_/)
    expect(page).to be_axe_clean
    click_button "Revoke nightly"
    click_button "Revoke permanently"
    expect(page).to have_css("[data-testid='tokens'] tr", text: "revoked")
    visit "/audiences"
    click_button "Make private: Dormant commuters"
    expect(page).to have_css("tr", text: "yours, private")
    visit "/account/log"
    expect(page).to have_css("[data-testid='log'] tr", text: "token revoked")
    visit "/account"
    click_button "Sign out"
    expect(page).to have_field("E-mail address")
    visit URI(link).path # under the address of all examples, which the cookie is for
    fill_in "Password", with: "long enough for a viewer"
    click_button "Set password and sign in"
    expect(page).to have_css("nav[aria-label='Main navigation']")
    visit "/people"
    expect(find("tbody").text).to include("•••").and not_include("ferrowick.example")
    visit "/audiences"
    expect(find("tbody", text: "Met the broken docks").text).not_to include("Dormant commuters")
    visit "/account"
    click_button "Sign out"
    fill_in "E-mail address", with: "vi@estrel.example"
    fill_in "Password", with: "not the one at all"
    click_button "Sign in"
    expect(page).to have_css("[role=alert]", text: "The address or the password is wrong.")
    sign_in_to_demo
    visit "/audiences"
    click_button "Share: Dormant commuters"
    expect(page).to have_button("Make private: Dormant commuters")
  end
end
