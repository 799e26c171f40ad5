# frozen_string_literal: true

require_relative "browser_helper"

RSpec.describe "every view", type: :feature do
  # In pixels.
  let(:smallest_text) { <<~JS }
    Math.min(...[...document.querySelectorAll("main *")]
      .filter((one) => one.checkVisibility() && [...one.childNodes].some((node) => node.nodeType === 3 && node.data.trim()))
      .map((one) => parseFloat(getComputedStyle(one).fontSize)))
  JS
  # Every view.
  let(:views) do
    %w[/ /?compare=1,2,3 /lifecycle/activity /lifecycle/thresholds /lifecycle/revisions /lifecycle/rules /lifecycle/rules?edit=new /lifecycle/alerts /people /people?compare=1,2
       /people/5 /audiences /audiences/new /audiences/1 /audiences/1?why=300 /analyses /analyses/trends?by=attribute:plan&behind=previous /analyses/trends?drawn=bars&compare=1,2 /analyses/ranking?compare=1,2
       /analyses/frequency?compare=1,2&behind=previous /analyses/frequency?bars=time /analyses/visits?by=new /analyses/visits?shown=clock /analyses/visits?shown=length&by=attribute:plan /analyses/visits?shown=since /analyses/experience?along=day /analyses/experience?what=shares&compare=1,2 /analyses/retention /analyses/retention?drawn=time&by=attribute:plan /analyses/cohort-value?step=month&cost=30 /analyses/funnel /analyses/funnel?by=attribute:plan&within=14+days /analyses/change?event=ride_ended&date=2026-06-02 /analyses/change?measure=times&step=month&compare=1,3 /analyses/chance /analyses/chance?chance=lapse /analyses/next-events?event=trip_planned&depth=3 /analyses/overlap?compare=1,2,3 /analyses/breakdown?by=attribute:plan&compare=1,2
       /analyses/before-after?first=message_opened&event=ride_ended&from=2026-03-10&to=2026-03-31 /exports /exports/new /exports/1 /exports/1?step=no_address /exports/runs
       /exports/runs/1?measure=did&event=ride_ended&days=60 /exports/campaigns /exports/campaigns?campaign=email%2Fspring_hello /exports/standing /exports/keeping /data /data/sources /data/live
       /data/catalogue /data/catalogue?type=ride_ended /data/notes /data/groups /analyses/visits?saved=2&shown=length /analyses/pages /analyses/pages/1 /data/settings /account /account/all /account/workspaces /account/log /help /help/lifecycle /help/none]
  end

  # Those whose requests and bytes are counted, too.
  let(:main_views) { %w[/ /people /audiences /audiences/1 /analyses/trends?drawn=bars&compare=1,2 /analyses/retention /analyses/funnel /analyses/pages/1 /exports /exports/1 /data] }
  let(:shifts) { <<~JS }
    window.shifted = 0;
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) if (!entry.hadRecentInput) window.shifted += entry.value;
    }).observe({ type: "layout-shift", buffered: true });
  JS
  let(:loaded) { <<~JS }
    (() => {
      const all = [...performance.getEntriesByType("resource"), ...performance.getEntriesByType("navigation")];
      return { requests: all.length, bytes: all.reduce((sum, { transferSize }) => sum + transferSize, 0) };
    })()
  JS
  let(:browser) { page.driver.browser }

  before { sign_in }

  after { theme("light") }

  def theme(name) = browser.execute_cdp("Emulation.setEmulatedMedia", features: [{ name: "prefers-color-scheme", value: name }])

  def window(width, theme)
    Chromium.resize(browser, width, 800)
    theme(theme)
    page.evaluate_async_script("requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(arguments[0], 100)))")
  end

  # What the comparison covers at the bottom edge can be scrolled away from it.
  def be_accessible(path) = path.include?("compare=") ? be_axe_clean : be_axe_clean.checking("target-size")

  def fits
    expect(page.evaluate_script(smallest_text)).to be >= 9.5
    # Less than nothing where the room for a scrollbar is kept free.
    expect(page.evaluate_script("document.documentElement.scrollWidth - document.documentElement.clientWidth")).to be <= 0
  end

  # What has been loaded by the time that nothing more has been for a second.
  def all_loaded
    before = nil
    sleep 1 until before == (before = page.evaluate_script(loaded))
    before
  end

  def keeps_still(path) = expect([path, page.evaluate_script("window.shifted")]).to match([path, be <= 0.05])

  # The server keeps an answer once it has been computed, and the browser once it has been sent as kept.
  def visit_again(path)
    visit path
    again = all_loaded
    return again if again["bytes"] <= 20_000

    visit path
    all_loaded
  end

  it "has no faults, in a wide window by day and in a narrow one by night", :aggregate_failures do
    browser.execute_cdp("Page.addScriptToEvaluateOnNewDocument", source: shifts)
    views.each do |path|
      window(1280, "light")
      counted = main_views.include?(path)
      browser.execute_cdp("Network.clearBrowserCache") if counted
      visit path
      expect(page).to have_css("h1, input[aria-label='Name of the audience']", visible: :all)
      expect(page).to have_no_text("Reading the ledger")
      expect(page).to have_no_css("main [role='status'] progress, main [role='progressbar']")
      expect(page).to be_accessible(path)
      keeps_still(path)
      expect([path, all_loaded]).to match([path, { "requests" => be <= 40, "bytes" => be <= 250_000 }]) if counted
      fits
      window(420, "dark")
      # Every run looks at each view once.
      expect(page).to be_accessible(path) if Checks.all?
      fits
      if counted
        expect([path, visit_again(path)]).to match([path, { "requests" => be <= 40, "bytes" => be <= 20_000 }])
        keeps_still(path)
      end
      # While a question of the previous view still runs, the server may refuse one of this view, which is asked again.
      faults = browser.logs.get(:browser).map(&:message).grep_v(/ 429 /)
      expect([path, faults]).to eq([path, []])
    end
  end
end
