# frozen_string_literal: true

require_relative "browser_helper"

# What opens on main views.
RSpec.describe "every main view", type: :feature do
  let(:paths) { %w[/ /people /audiences /audiences/1 /analyses/trends?event=ride_ended /analyses/retention /analyses/funnel /analyses/pages/1 /exports /exports/1 /data] }

  before { sign_in }

  # The buttons that open panels, by what they begin with: "Calendar", "as of".
  def panels = all("button[aria-haspopup='dialog']").to_h { |button| [(button["aria-label"] || button.text)[/\A[^:\d\n]+/].strip, button] }

  it "can be used with assistive technology with each panel open" do
    opened = Set.new
    paths.each do |path|
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
    { "/people/5" => "Erase…", "/data" => "Remove demo data…", "/people" => "?" }.each do |path, opener|
      visit path
      expect(page).to have_css("h1")
      opener == "?" ? find("body").send_keys("?") : click_button(opener)
      expect(page).to have_css("[role='dialog'][data-state='open'], [role='alertdialog'][data-state='open']")
      expect(page).to be_axe_clean.within("[role='dialog'], [role='alertdialog']")
      send_keys(:escape)
    end
  end
end
