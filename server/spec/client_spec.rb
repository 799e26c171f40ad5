# frozen_string_literal: true

require_relative "server_helper"
require_relative "../../client/estrel_client"
require "puma"

# The client against the application itself, over the network.
RSpec.describe EstrelClient do
  include ApiHelper

  let(:application) { EstrelServer::Application.build }
  # What is answered first, before the application is asked.
  let(:before) { [] }
  let(:server) { Puma::Server.new(->(env) { before.shift || application.call(env.merge("HTTP_HOST" => "127.0.0.1:4270")) }, nil, { log_writer: Puma::LogWriter.null }) }
  let(:port) { server.add_tcp_listener("127.0.0.1", 0).addr[1].tap { server.run } }

  after { server.stop(true) }

  def client(scopes = %w[write], **more) = described_class.new("http://127.0.0.1:#{port}", EstrelServer::ApiToken.issue(sign_in, "job", scopes).last, **more)

  it "asks, walks through all people, and carries an export out to its file" do
    fill
    estrel = client
    told = estrel.ask("trends", series: [{ event: "ride_ended" }], from: "2026-05-01", as_of: "2026-05-20", step: "week")
    expect(told["picture"]["rows"].size).to eq(1)
    expect(estrel.people(as_of: "2026-05-20", per_page: 4).map { |row| row["id"] }).to match_array(EstrelServer::Profile.ids)
    audience = estrel.post("/audiences", { name: "All", definition: { all: [] } })
    expect(estrel.put("/audiences/#{audience["id"]}", { name: "Everybody" })["name"]).to eq("Everybody")
    export = estrel.post("/exports", { name: "Once", audience_id: audience["id"], rules: { columns: [{ take: "identifier:customer" }] }, as_of: "2026-05-20" })
    worker = Thread.new { EstrelServer::Record.connection_pool.with_connection { 50.times { sleep(0.1).then { work_off } } } }
    run = estrel.carry_out(export["id"], as_of: "2026-05-20", pause: 0.1)
    worker.kill.join
    file = +""
    estrel.download("/runs/#{run["id"]}/file") { |part| file << part }
    expect(file.lines.map(&:chomp)).to match_array(%w[customer 1 2 3 4 5 6])
    expect(estrel.delete("/audiences/#{estrel.post("/audiences", { name: "Gone", definition: { all: [] } })["id"]}")).to include("name" => "Gone")
  end

  it "says what was refused and why, and tries again only what changes nothing" do
    fill
    estrel = client(%w[read])
    expect { estrel.post("/audiences", { name: "x", definition: { all: [] } }) }.to raise_error(described_class::Refused, /scope write/)
    expect { client.post("/audiences", { name: "x", definition: { all: [{ did: { event: "flown" } }] } }) }
      .to raise_error(described_class::Refused) { |error| expect([error.status, error.errors.first["place"]]).to match([422, /all\[0\]/]) }
    expect { estrel.download("/runs/1/file") { nil } }.to raise_error(described_class::Refused, /only|scope|nothing/i)
    busy = [503, { "content-type" => "application/json", "retry-after" => "0" }, ["{\"detail\":\"busy\"}"]]
    before.push(busy, busy)
    expect(estrel.get("/workspace")).to include("time_zone")
    before.push(busy)
    expect { client.post("/audiences", { name: "y", definition: { all: [] } }) }.to raise_error(described_class::Refused, "busy")
    before.push([200, {}, ["<html>"]])
    expect { client(attempts: 1).get("/workspace") }.to raise_error(JSON::ParserError)
    server.stop(true)
    expect { client(attempts: 2).get("/workspace") }.to raise_error(described_class::Away, /cannot be reached/)
  end
end
