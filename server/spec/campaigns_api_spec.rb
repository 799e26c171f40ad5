# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::API::CampaignsEndpoint do
  include ApiHelper

  def message(kind, person, day, **data) = event("#{kind}-#{person}-#{day}", type: "message_#{kind}", subject: "customer:#{person}", time: "2026-05-#{format("%02d", day)}T09:00:00Z", data: { campaign: "letter", channel: "email", **data })

  before do
    fill
    import([message("received", 1, 2), message("received", 1, 9), message("received", 2, 9), message("opened", 1, 10), message("bounced", 3, 9)].join("\n"))
    refresh
  end

  it "tells what came of campaigns, who was exported for them, and how people respond" do
    everybody = call(:post, "/audiences", { name: "Everybody", definition: { "all" => [] } })
    export = call(:post, "/exports", { name: "letter", audience_id: everybody["id"], as_of: "2026-05-20", rules: { columns: [{ take: "identifier:customer" }], channel: "email" } })
    call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    work_off
    answer = analyse("campaign-results", as_of: "2026-05-20")
    found = answer["picture"]
    expect(found["campaigns"].map { |row| row.values_at("campaign", "channel", "messages", "people", "opened", "bounced", "exported") }).to eq([["letter", "email", 3, 2, 1, 1, 2]])
    expect(answer["finding"]).to include("response rate 33% (3 messages)")
    expect(picture("campaign-results", as_of: "2026-05-08")["campaigns"].map { |row| row.values_at("messages", "exported") }).to eq([[1, nil]])
    days = picture("campaign-days", as_of: "2026-05-20", campaign: "letter", channel: "email")["days"]
    expect(days.size).to eq(29)
    expect(days[1]).to include("messages" => 3, "opened" => 1)
    response = picture("response-streaks", as_of: "2026-05-20")
    expect(response["points"].map { |row| row.values_at("messages", "people", "mean") }).to eq([[3, 2, 0.5]])
    expect(response["cells"].flatten(1).sum { |cell| cell[0] }).to eq(3)
    expect(picture("response-streaks", as_of: "2026-05-20", channel: "sms")["points"]).to eq([])
    person = call(:get, "/people?as_of=2026-05-20&search=customer:1")["rows"].first["id"]
    series = call(:get, "/people/#{person}/responses?as_of=2026-05-20")["series"]
    expect(series.map { |row| row.values_at("campaign", "messages", "responded", "current", "longest", "mean") }).to eq([[nil, 2, 1, 1, 1, 1.0], ["letter", 2, 1, 1, 1, 1.0]])
    condition = { "all" => [{ "campaign" => { "was" => "ignored", "last" => 1, "name" => "letter" } }] }
    expect(call(:post, "/audiences/preview", { definition: condition, as_of: "2026-05-20" })["size"]).to eq(1)
  end

  it "learns which event types stand for messages" do
    expect(call(:put, "/campaigns/messaging", { received: "ride_ended" })).to include("received" => "ride_ended", "opened" => "message_opened")
    rows = picture("campaign-results", as_of: "2026-05-20")
    expect(rows["messaging"]["received"]).to eq("ride_ended")
    expect(rows["campaigns"].map { |row| row.values_at("campaign", "channel") }).to eq([[nil, nil]])
    expect(call(:put, "/campaigns/messaging", { received: "" })["detail"]).to include("Choose an event type for every kind")
  end
end
