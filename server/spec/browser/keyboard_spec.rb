# frozen_string_literal: true

require_relative "browser_helper"

RSpec.describe "working without a mouse", type: :feature do
  include_context "with a clear desk"

  let(:pressed) { [] }

  def focused = page.evaluate_script("(e => e.getAttribute('aria-label') || e.textContent.trim() || e.tagName)(document.activeElement)")

  # Presses keys one by one; a symbol is a key, a text is written.
  def press(*keys)
    keys.each { |key| page.driver.browser.action.send_keys(key).perform }
    pressed.concat(keys.flat_map { |key| key.is_a?(Symbol) ? key : key.chars })
  end

  # The number of presses that the block takes.
  def presses
    before = pressed.size
    yield
    pressed.size - before
  end

  # Tabs to what is called so, of at most so many things.
  def tab_to(name, most: 30)
    most.times do
      press(:tab)
      return if focused[name]
    end
    raise "Tab did not reach #{name.inspect} in #{most} presses; the focus is on #{focused}"
  end

  it "takes a few presses for a split, a further step, a date and a phrase up the page" do
    visit "/analyses/trends?event=ride_ended&step=month"
    expect(page).to have_css("[data-testid='finding']")
    split = presses { press("q", :end, :arrow_down) }
    expect(page).to have_current_path(/by=/)
    visit "/analyses/funnel"
    expect(page).to have_css("[aria-label^='Step 1 of 3']")
    step = presses { press("q", "a", :enter) }
    expect(page).to have_css("[aria-label^='Step 1 of 4']")
    visit "/audiences/1"
    expect(page).to have_css("[data-testid='line']")
    phrase = presses { press("q", :arrow_right, :enter) }
    expect(page).to have_css("[data-testid='line'] [data-part='content'][data-state='open']")
    expect([split, step, phrase]).to all(be < 20)
  end

  it "opens a calendar on its day, which arrow keys change, and puts the focus back" do
    visit "/analyses/funnel"
    expect(page).to have_css("[data-testid='question']")
    find("button", text: /as of/).send_keys(:enter)
    expect(page).to have_css("input[aria-label='As of the end of']:focus")
    tab_to(/Calendar: As of the end of/, most: 5)
    press(:enter)
    expect(page).to have_css("[data-part='table-cell-trigger']:focus")
    press(:arrow_up)
    expect(focused).to match(/24 October 2026/)
    press(:enter)
    expect(page).to have_button("as of 24 Oct 2026")
    expect(page).to have_css("button:focus", text: "as of 24 Oct 2026")
  end

  it "has the focus in what an offer opens, and leaves it by Escape and Tab" do
    visit "/audiences/new"
    expect(page).to have_css("[data-testid='size'][data-stale='false']")
    press("q", "m", :enter)
    expect(page).to have_css("[data-part='content'][data-state='open'] button:focus")
    expect(page).to be_axe_clean
    press(:tab, :tab, :enter)
    expect(page).to have_css("input[aria-label='Profile type']:focus")
    press(:escape)
    expect(page).to have_no_css("input[aria-label='Profile type']")
    expect(focused).to eq("More conditions…")
    press(:enter, :tab, :tab, :enter)
    expect(page).to have_css("input[aria-label='Profile type']:focus")
    press(:tab)
    expect(page).to have_no_css("input[aria-label='Profile type']")
  end

  it "goes from signing in to an export and its file" do
    rules = { columns: [{ take: "identifier:customer" }] }
    export = api(:post, "/exports", { name: "By keyboard", audience_id: 1, rules: rules })
    ESTREL.session_by_link # which sets the password
    page.driver.browser.execute_cdp("Network.clearBrowserCookies")
    visit "/"
    expect(page).to have_field("E-mail address")
    tab_to("INPUT", most: 5) until page.evaluate_script("document.activeElement.type") == "email"
    press("demo@ferrowick.example", :tab, "a password for the demo", :enter)
    expect(page).to have_css("nav[aria-label='Main navigation']")
    press("g", "e")
    expect(page).to have_link("By keyboard")
    tab_to("By keyboard", most: 60)
    press(:enter)
    expect(page).to have_css("button.act:enabled", text: /Export [\d,]+ people/)
    tab_to(/Export [\d,]+ people/)
    got = presses do
      press(:enter)
      expect(page).to have_css("a:focus", text: "download the file")
      press(:enter)
    end
    expect(got).to be < 20
    expect(page).to have_css("h1")
    50.times { Dir.glob(File.join(DOWNLOADS, "By*")).any? ? break : sleep(0.2) }
    expect(Dir.glob(File.join(DOWNLOADS, "*")).map { |path| File.basename(path) }).to include(/keyboard/i)
  ensure
    api(:delete, "/exports/#{export["id"]}") if export
  end
end
