# frozen_string_literal: true

require_relative "browser_helper"

RSpec.describe "every view", type: :feature do
  # In pixels.
  let(:smallest_text) { <<~JS }
    Math.min(...[...document.querySelectorAll("main *")]
      .filter((one) => one.checkVisibility() && [...one.childNodes].some((node) => node.nodeType === 3 && node.data.trim()))
      .map((one) => parseFloat(getComputedStyle(one).fontSize)))
  JS
  # Every view, in a wide window by day and in a narrow one by night.
  let(:views) do
    %w[/ /?compare=1,2,3 /lifecycle/activity /lifecycle/thresholds /lifecycle/revisions /lifecycle/rules /lifecycle/rules?edit=new /lifecycle/alerts /people /people?compare=1,2
       /people/5 /audiences /audiences/new /audiences/1 /audiences/1?why=300 /analyses /analyses/trends?by=attribute:plan&behind=previous /analyses/trends?drawn=bars&compare=1,2 /analyses/ranking?compare=1,2
       /analyses/frequency?compare=1,2&behind=previous /analyses/frequency?bars=time /analyses/visits?by=new /analyses/visits?shown=clock /analyses/visits?shown=length&by=attribute:plan /analyses/visits?shown=since /analyses/experience?along=day /analyses/experience?what=shares&compare=1,2 /analyses/retention /analyses/retention?drawn=time&by=attribute:plan /analyses/cohort-value?step=month&cost=30 /analyses/funnel /analyses/funnel?by=attribute:plan&within=14+days /analyses/change?event=ride_ended&date=2026-06-02 /analyses/change?measure=times&step=month&compare=1,3 /analyses/chance /analyses/chance?chance=lapse /analyses/next-events?event=trip_planned&depth=3 /analyses/overlap?compare=1,2,3 /analyses/breakdown?by=attribute:plan&compare=1,2
       /analyses/before-after?first=message_opened&event=ride_ended&from=2026-03-10&to=2026-03-31 /exports /exports/new /exports/1 /exports/1?step=no_address /exports/runs
       /exports/runs/1?measure=did&event=ride_ended&days=60 /exports/campaigns /exports/campaigns?campaign=email%2Fspring_hello /exports/standing /exports/keeping /data /data/sources /data/live
       /data/catalogue /data/catalogue?type=ride_ended /data/notes /data/groups /analyses/visits?saved=2&shown=length /analyses/pages /analyses/pages/1 /data/settings /account /account/all /account/workspaces /account/log /help /help/lifecycle /help/none]
  end

  before { sign_in }

  [[1280, "light"], [420, "dark"]].each do |width, mode|
    it "has no faults, #{width} px wide in the #{mode} theme" do
      Chromium.resize(page.driver.browser, width, 800)
      visit "/"
      page.execute_script("localStorage.setItem('estrel-mode', arguments[0])", mode)
      views.each do |path|
        visit path
        expect(page).to have_css("h1, input[aria-label='Name of the audience']", visible: :all)
        expect(page).to have_no_text("Reading the ledger")
        expect(page).to have_no_css("main [role='status'] progress, main [role='progressbar']")
        # Every run looks at each view once.
        expect(page).to be_axe_clean.checking("target-size") if mode == "light" || Checks.all?
        expect(page.evaluate_script(smallest_text)).to be >= 9.5, path
        beyond = page.evaluate_script("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        # Less than none where the room for a scrollbar is kept free.
        expect(beyond).to be <= 0, "#{path} is #{beyond} px too wide"
        faults = page.driver.browser.logs.get(:browser).map(&:message)
        expect(faults).to eq([]), "#{path}: #{faults.join("; ")}"
      end
    ensure
      visit "/" # what went wrong may have been that a page did not come
      page.execute_script("localStorage.setItem('estrel-mode', 'light')")
      Chromium.resize(page.driver.browser, 1280, 800)
    end
  end
end
