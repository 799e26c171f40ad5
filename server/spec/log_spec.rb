# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Log do
  include ApiHelper

  let(:output) { StringIO.new }

  def lines = output.string.lines.map { |line| JSON.parse(line) }

  before do
    Delayed::Job.delete_all
    described_class.output = output
    described_class.everything = true
  end

  after do
    described_class.output = nil
    described_class.everything = false
  end

  it "follows a request by its number through the answer, the job it begins and the database, without saying who anybody is" do
    fill
    seen = []
    ActiveSupport::Notifications.subscribed(->(*, payload) { seen << payload[:sql] }, "sql.active_record") do
      call(:get, "/people?as_of=2026-05-20&search=b%40b.example")
    end
    number = last_response.headers["x-request-id"]
    expect(number).to match(/\A\h{16}\z/)
    expect(last_response.headers["cache-control"]).to eq("no-store")
    expect(lines.find { |line| line["event"] == "request" }).to include("request" => number, "route" => "/people", "status" => 200, "level" => "info")
    expect(seen).to include(a_string_ending_with("/* request #{number} */"))

    audience = call(:post, "/audiences", { name: "All", definition: { "all" => [] } })
    export = call(:post, "/exports", { name: "Once", audience_id: audience["id"], rules: { columns: [{ take: "identifier:customer" }] }, as_of: "2026-05-20" })
    call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    queued = lines.find { |line| line["event"] == "job queued" }
    expect(queued).to include("request" => last_response.headers["x-request-id"], "queue" => "exports")
    work_off
    expect(lines.find { |line| line["event"] == "job done" }).to include("job" => queued["job"])
    expect(output.string).not_to match(/b\.example|@/)
  end

  it "tells of a fault where it was and under which number it stands in the answer, but not the values that were in it" do
    fill
    allow(EstrelServer::Audience).to receive(:kept).and_raise(ActiveRecord::StatementInvalid, "Duplicate entry 'ann@b.example' for key 'x' of bob@b.example")
    told = call(:get, "/audiences")
    line = lines.find { |one| one["level"] == "error" }
    expect(told["detail"]).to include(line["request"])
    expect(line).to include("error" => "ActiveRecord::StatementInvalid", "said" => "Duplicate entry … for key … of …")
    expect(line["at"].first).to include("spec").or include("lib")
    expect(output.string).not_to include("b.example")
  end

  it "lets the work go on where there is no room for what it tells" do
    File.open("/dev/full", "w") do |file|
      described_class.output = file.tap { |full| full.sync = true }
      expect { described_class.warning("told") }.not_to raise_error
    end
  end
end
