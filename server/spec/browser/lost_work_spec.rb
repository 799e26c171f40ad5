# frozen_string_literal: true

require_relative "browser_helper"

# What is written, deleted or focused survives sessions that end, quick clicks, and connections that fail.
RSpec.describe "work under way", type: :feature do
  before { sign_in }

  after do
    network(offline: false)
    quiet_browser(but: /favicon|401|404|ERR_INTERNET_DISCONNECTED/)
  end

  def network(offline:)
    page.driver.browser.execute_cdp("Network.enable")
    page.driver.browser.execute_cdp("Network.emulateNetworkConditions", offline: offline, latency: 0, downloadThroughput: -1, uploadThroughput: -1)
  end

  def name = find_field("Name of the audience")

  def focused = page.evaluate_script("[document.activeElement.tagName, document.activeElement.id].join(' ')")

  it "is there again after a session has ended" do
    visit "/audiences/#{api(:get, "/audiences")["audiences"].first["id"]}"
    size
    written = name.value
    name.send_keys(" drafted")
    expect(page).to have_text("not saved yet")
    page.driver.browser.manage.delete_cookie("estrel_session") # which the next look for news shows
    expect(page).to have_no_css("nav[aria-label='Main navigation']")
    click_button "Open demo"
    expect(page).to have_field("Name of the audience", with: "#{written} drafted")
    size
    click_button "Discard changes"
    expect(name.value).to eq(written)
    find("h1", visible: :all) && page.execute_script("document.activeElement.blur()")
    send_keys([:control, "z"])
    expect(page).to have_field("Name of the audience", with: "#{written} drafted")
    click_button "Discard changes"
  end

  it "can be saved after someone has deleted what it belongs to" do
    row = api(:post, "/audiences", { name: "Deleted elsewhere", definition: { all: [] } })
    visit "/audiences/#{row["id"]}"
    size
    name.send_keys(", kept here")
    api(:delete, "/audiences/#{row["id"]}")
    click_button "Save"
    expect(page).to have_text("Someone has deleted this audience since you opened it. Restore it to save your changes.")
    click_button "Restore and save"
    expect(page).to have_text("“Deleted elsewhere, kept here” has been saved")
    expect(page).to have_no_css("[role='alert']")
    expect(api(:get, "/audiences/#{row["id"]}")["name"]).to eq("Deleted elsewhere, kept here")
  ensure
    api(:delete, "/audiences/#{row["id"]}")
  end

  it "is not deleted by a second click" do
    names = %w[First Second].map { |one| api(:post, "/audiences", { name: "#{one} to go", definition: { all: [] } }) }
    visit "/audiences"
    button = find_button("Delete Second to go").native
    page.driver.browser.action.click(button).pause(duration: 0.45).click.perform
    expect(page).to have_button("Delete Second to go", disabled: :all, text: "Deleted")
    expect(page).to have_text("“Second to go” has been deleted")
    expect(page).to have_link("First to go")
    network(offline: true)
    click_button "Undo"
    expect(page).to have_text("could not be undone")
    network(offline: false)
    find("[data-part='root']", text: "could not be undone").find(:button, "Undo").click
    expect(page).to have_link("Second to go")
    find_button("Delete Second to go").send_keys(:enter)
    expect(page).to have_button("Delete Second to go", disabled: :all, text: "Deleted")
    expect(page).to have_css("tbody a:focus")
  ensure
    names&.each { |row| api(:delete, "/audiences/#{row["id"]}") }
  end

  it "goes on once the server can be reached again" do
    visit "/audiences/new?name=Everybody+once&definition=%7B%22all%22%3A%5B%5D%7D"
    start "an attribute", "Attribute", "plan" if page.has_button?("an attribute", wait: 0)
    size
    network(offline: true)
    expect(page).to have_text("The server is not responding")
    name.send_keys("!")
    network(offline: false)
    expect(page).to have_no_text("The server is not responding")
    expect(page).to have_button("Save", disabled: false)
  end

  it "has the focus where it goes on: at the beginning of a place, in a panel, at the content" do
    visit "/audiences"
    expect(page).to have_css("h1", text: "Audiences")
    send_keys(:tab, :enter)
    expect(focused).to eq("MAIN main")
    click_on "Lifecycle"
    expect(page).to have_css("h1")
    expect(focused).to eq("MAIN main")
    click_button "as of"
    expect(page).to have_button("Newest data")
    expect(page.evaluate_script("document.activeElement.closest('[data-part=content]') !== null")).to be(true)
    send_keys(:escape)
  end

  it "stays where it was scrolled to when one goes back" do
    visit "/audiences"
    expect(page).to have_text("Active on one day only")
    page.execute_script("scrollTo(0, 150)")
    page.execute_script("document.querySelector('tbody a').click()") # which needs not be in view
    expect(page).to have_field("Name of the audience")
    # The page that is left can be scrolled as far, which must not count.
    Timeout.timeout(20) { sleep 0.1 until page.evaluate_script("document.documentElement.scrollHeight - innerHeight") > 150 }
    page.go_back
    expect(page).to have_text("Active on one day only")
    Timeout.timeout(20) { sleep 0.1 until (page.evaluate_script("scrollY") - 150).abs < 5 }
  end
end
