# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Health do
  include ApiHelper

  before do
    header "Host", "127.0.0.1:4270"
    Delayed::Job.delete_all
  end

  def ready
    get("/health/ready")
    told = JSON.parse(last_response.body)
    [last_response.status, told["checks"].to_h { |check| [check["name"], check["ok"]] }, told["checks"].map { |check| check["said"] }.join(" ")]
  end

  it "says whether the process lives, and who asks with anything but GET is refused" do
    get("/health/live")
    expect([last_response.status, JSON.parse(last_response.body)]).to eq([200, { "live" => true }])
    post("/health/live")
    expect(last_response.status).to eq(405)
    get("/health/else")
    expect(last_response.status).to eq(404)
  end

  it "says what does not do its work: a ledger that has fallen behind, jobs that nobody takes up, a database that is gone" do
    fill
    well = { "database" => true, "ledger" => true, "jobs" => true, "disk" => true }
    expect(ready).to match([200, well, //])
    import(event("late", subject: "customer:1", time: "2026-05-02T10:00:00Z"))
    expect(ready.first(2)).to eq([200, well])
    built = Time.iso8601(EstrelServer.ledger.current.facts["built_at"])
    allow(Time).to receive(:now).and_return(built + described_class::LEDGER_SECONDS + 5)
    expect(ready).to match([503, { **well, "ledger" => false }, /behind by 2 min/])
    allow(Time).to receive(:now).and_call_original
    refresh

    Delayed::Job.create!(handler: "--- {}", queue: "imports", run_at: Time.now.utc - described_class::JOB_SECONDS - 60)
    expect(ready).to match([503, { **well, "jobs" => false }, /1 wait, the oldest since 11 min/])
    Delayed::Job.delete_all
    allow(EstrelServer::Record.connection_pool).to receive(:with_connection).and_raise(ActiveRecord::ConnectionNotEstablished)
    expect(ready.first(2)).to eq([503, { "database" => false, "disk" => true }])
  end
end
