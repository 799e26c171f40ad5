# frozen_string_literal: true

require_relative "browser_helper"

RSpec.describe "workspaces", type: :feature do
  include_context "with a clear desk"

  after { quiet_browser }

  def row = find("[data-testid='installed'] tr", text: "/w/shop")

  it "are made, gone to and given definitions" do
    visit "/account/workspaces"
    fill_in "New workspace", with: "The shop"
    fill_in "at the address /w/", with: "shop\n"
    expect(page).to have_css("[data-testid='installed'] a", text: "/w/shop", wait: 60)
    expect(page).to be_axe_clean
    click_button "Workspace Main"
    within("[data-testid='workspaces']") { click_link "The shop" }
    expect(page).to have_text("No data yet", wait: 30)
    expect(page).to have_title("Lifecycle · The shop · Estrel")
    expect(page).to be_axe_clean

    find("a[href='/w/shop/account']").click
    click_link "Workspaces"
    click_button "Preview changes"
    expect(page).to have_text("New: Audience “Met the broken docks”")
    click_button "Copy definitions"
    expect(page).to have_text("Definitions copied.")

    # By the keyboard, with a link that is opened anew, and back to where people are.
    page.refresh
    expect(page).to have_current_path("/w/shop/account/workspaces")
    find_button("Workspace The shop").send_keys(:enter)
    find_link("Main").send_keys(:enter)
    expect(page).to have_css("[data-testid='finding'], h2", text: /States over time|people are new or active/, wait: 30)
    expect(page).to have_current_path("/")
  end

  # The one made before.
  it "are archived and removed" do
    visit "/account/workspaces"
    row.click_button("Archive The shop")
    expect(row).to have_text("archived")
    visit "/w/shop/"
    expect(page).to have_text("There is no workspace of that name, or it has been archived.")
    visit "/account/workspaces"
    row.click_button("Remove The shop")
    find("[data-testid='installed'] form input").set("shop")
    click_button "Delete workspace"
    expect(row).to have_text("being removed")
    expect(page).to have_text("This is the only one so far.", wait: 60)
  end
end
