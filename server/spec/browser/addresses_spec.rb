# frozen_string_literal: true

require_relative "browser_helper"

# Addresses that were cut off, typed by hand or kept too long: every place shows what there is, says what it left out,
# and asks the server nothing that it would refuse.
RSpec.describe "bad addresses", type: :feature do
  let(:bad) do
    { as_of: "2026-02-30", received_by: "soon", from: "-7", to: "2026", between: "x", and: "y", until: "now", rules: "mine",
      page: "-3", state: "happy", profile_type: "robot", range: "forever", step: "fortnight", behind: "tomorrow", order: "sideways",
      compare: "a,b", definition: "{", by: "weather", groups: "weather", alert: "-1", share: "400", horizon: "0", dormant: "-5",
      churned: "1e9", whose: "theirs", measure: "love", days: "0", since: "then", around: "corner", event: "{", first: "{",
      before: "0", after: "9999", also: "[", drawn: "oil", hidden: "-1", combined: "with", unit: "moons", edges: "3,2", bars: "up", counted: "sheep", direction: "up", within: "soon", depth: "0", leave: "%", why: "?", search: "", type: "nothing_of_the_kind", edit: "99999999" }
  end

  # Some of the places; the tests of the front end ask of all analyses what addresses make of questions.
  places = %w[/ /audiences/new /analyses/retention /exports/new].freeze

  before { sign_in }

  after { quiet_browser(but: /favicon/) }

  places.each do |place|
    it "are read as far as they make sense at #{place}" do
      visit "#{place}?#{URI.encode_www_form(bad)}"
      expect(page).to have_css("main [role=status]", text: "Part of this link could not be read and was ignored: as_of, received_by")
      expect(page).to have_css("h1")
      expect(page).to have_no_css("main [role=alert]")
      expect(page).to have_no_text("Reading the ledger")
      expect(page).to have_no_text(/NaN|undefined|\[object/)
    end
  end

  it "of things that are not there say so" do
    { "/people/abc" => "Page not found", "/audiences/12x" => "Page not found", "/elsewhere" => "Page not found",
      "/analyses/astrology" => "There is no analysis called “astrology”", "/exports/exports" => "Page not found",
      "/data/9" => "Page not found", "/analyses/pages/x" => "Page not found" }.each do |path, text|
      visit path
      expect(page).to have_text(text), path
    end
  end
end
