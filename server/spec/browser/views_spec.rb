# frozen_string_literal: true

require_relative "browser_helper"

# What each main view costs and how much it shifts, counted, not timed; and what opens on it.
RSpec.describe "every main view", type: :feature do
  let(:shifts) { <<~JS }
    window.shifted = 0;
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) if (!entry.hadRecentInput) window.shifted += entry.value;
    }).observe({ type: "layout-shift", buffered: true });
  JS
  let(:loaded) { <<~JS }
    (() => {
      const all = [...performance.getEntriesByType("resource"), ...performance.getEntriesByType("navigation")];
      return { requests: all.length, bytes: all.reduce((sum, { transferSize }) => sum + transferSize, 0), shifted: window.shifted };
    })()
  JS

  def self.paths
    %w[/ /people /audiences /audiences/1 /analyses/trends?event=ride_ended /analyses/retention /analyses/funnel /analyses/pages/1 /exports /exports/1 /data]
  end

  before { sign_in }

  # The buttons that open panels, by what they begin with: "Calendar", "as of".
  def panels = all("button[aria-haspopup='dialog']").to_h { |button| [(button["aria-label"] || button.text)[/\A[^:\d\n]+/].strip, button] }

  # Until nothing more has been loaded for a second.
  def wait_for_stillness
    before = nil
    until before == (before = page.evaluate_script(loaded)["requests"])
      sleep 1
    end
  end

  it "can be used with assistive technology with each panel open" do
    opened = Set.new
    self.class.paths.each do |path|
      visit path
      expect(page).to have_css("h1")
      panels.keys.select { |name| opened.add?(name) }.each do |name|
        panels.fetch(name).click
        expect(page).to have_css("[data-part='content'][data-state='open']")
        expect(page).to be_axe_clean.within("[data-part='content'][data-state='open']")
        send_keys(:escape)
        expect(page).to have_no_css("[data-part='content'][data-state='open']")
      end
    end
  end

  it "can be used so in dialogs, too" do
    { "/people/5" => "Erase…", "/data" => "Leave the demo…", "/people" => "?" }.each do |path, opener|
      visit path
      expect(page).to have_css("h1")
      opener == "?" ? find("body").send_keys("?") : click_button(opener)
      expect(page).to have_css("[role='dialog'][data-state='open'], [role='alertdialog'][data-state='open']")
      expect(page).to be_axe_clean.within("[role='dialog'], [role='alertdialog']")
      send_keys(:escape)
    end
  end

  paths.each do |path|
    it "keeps still and loads little at #{path}" do
      browser = page.driver.browser
      script = browser.execute_cdp("Page.addScriptToEvaluateOnNewDocument", source: shifts)["identifier"]
      # The first visit lets the server keep the answers, the second fetches everything, the third what has changed.
      [[420, 250], [1280, 250], [1280, 20]].each do |width, kilobytes|
        Chromium.resize(browser, width, 800)
        visit "about:blank"
        browser.execute_cdp("Network.clearBrowserCache") if kilobytes > 20
        visit path
        expect(page).to have_css("h1")
        wait_for_stillness
        found = page.evaluate_script(loaded)
        expect(found["shifted"]).to be <= 0.05, "#{path} at #{width}: #{found}"
        expect([found["requests"], found["bytes"] / 1000]).to match([be <= 40, be <= kilobytes]), "#{path} at #{width}: #{found}"
      end
    ensure
      browser.execute_cdp("Page.removeScriptToEvaluateOnNewDocument", identifier: script)
      Chromium.resize(browser, 1280, 800)
    end
  end
end
