# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe Estrel::Analyses::BeforeAfter do
  include ApiHelper

  before do
    fill
    import([2, 3].map { |person| event("pass-#{person}", type: "pass_bought", subject: "customer:#{person}", time: "2026-05-09T10:00:00Z", data: { "price" => 7 }) }.join("\n"))
    # Two who were active on that day as well, and bought nothing.
    import([4, 5].map { |person| event("ride-#{person}-on-the-9th", subject: "customer:#{person}", time: "2026-05-09T10:00:00Z", data: { "km" => 2 }) }.join("\n"))
    refresh
  end

  def ask(**changes) = analyse("before-after", as_of: "2026-05-30", metric: { event: "ride_ended" }, before: 5, after: 5, first: { event: "pass_bought" }, from: "2026-05-01", to: "2026-05-20", **changes)

  it "tells what was done before and after, of who did something first and around a date" do
    found = ask["picture"]
    # Rides are on the 1st, 6th and 11th (and 16th of person 3): one before, one after, of each.
    expect(found).to include("people" => 2, "mean_before" => 0.2, "mean_after" => 0.2, "known_too_late" => 0)
    expect(found["series"].size).to eq(11)
    expect(found["matched"]).to include("pairs" => 2)
    audience = call(:post, "/audiences", { name: "Buyers", definition: { all: [{ did: { event: "ride_ended", count: { at_least: 1 }, window: { ever: true } } }] } })
    around = ask(first: nil, date: "2026-05-12", audience: audience["id"], metric: { event: "ride_ended", measure: "sum", property: "km" })["picture"]
    expect(around).to include("people" => 6, "metric" => "total km (ride ended)")
    expect(around["start"]).to eq("were in “Buyers” on the day before 12 May 2026")
  end

  it "refuses what makes no sense" do
    { { before: 0 } => /"Before" must be a whole number from 1 to 365/, { metric: { event: "rode" } } => /metric.event there is no event type "rode"/, { first: nil } => /Choose what was done for the first time/,
      { from: "2026-05-31" } => /must have 1 to 184 days/, { first: { event: "rode" } } => /first.event there is no event type/, { first: nil, date: "2027-01-01" } => /date is after/ }.each do |changes, reason|
      expect(ask(**changes)).to be_refused(422, reason)
    end
  end
end
