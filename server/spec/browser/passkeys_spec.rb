# frozen_string_literal: true

require_relative "browser_helper"

# With a device of the browser's own, which says that its owner is there.
RSpec.describe "passkeys", type: :feature do
  include_context "with a clear desk"

  let(:named) { ENV.fetch("ESTREL_PUBLIC_URL") }
  let!(:device) do
    browser = page.driver.browser
    browser.add_virtual_authenticator(Selenium::WebDriver::VirtualAuthenticatorOptions.new(protocol: :ctap2, transport: :internal, resident_key: true, user_verification: true, user_verified: true))
  end

  after { device.remove! }

  # By the link of a new account.
  def sign_in_by_password
    run = ->(*words) { IO.popen([File.join(ROOT, "bin/estrel"), "account", *words], &:read) }
    run.call("add", "ada@ferrowick.example", "--role", "analyst")
    visit "#{named}/link/#{run.call("link", "ada@ferrowick.example")[%r{/link/(\S+)}, 1]}"
    fill_in "Password, at least 12 characters", with: "bicycles by the river"
    click_button "Set password and sign in"
    expect(page).to have_css("nav")
  end

  def sign_out
    visit "#{named}/account"
    click_button "Sign out"
    expect(page).to have_css("[data-testid='sign-in']")
  end

  it "are added, sign in by a click, and are taken away" do
    sign_in_by_password
    visit "#{named}/account"
    within(:xpath, "//form[.//button[text()='Add a passkey']]") do
      fill_in "your password", with: "bicycles by the river"
      fill_in "what to call it", with: "my laptop"
      click_button "Add a passkey"
    end
    expect(page).to have_css("[data-testid='passkeys'] td", text: "my laptop")
    expect(page).to be_axe_clean
    sign_out
    expect(page).to be_axe_clean
    click_button "sign in with a passkey"
    expect(page).to have_css("nav")
    visit "#{named}/account"
    expect(page).to have_no_css("[data-testid='passkeys'] td", text: "never")
    click_button "Remove my laptop"
    click_button "Remove permanently"
    expect(page).to have_no_css("[data-testid='passkeys']")
    sign_out
    click_button "sign in with a passkey"
    expect(page).to have_css("[role='alert']", text: /not known here|no passkey/)
    visit Capybara.app_host
  end
end
