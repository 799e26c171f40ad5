# frozen_string_literal: true

require_relative "server_helper"
require "puma"

# Heavy questions take turns, so that nobody is kept waiting by somebody else's.
RSpec.describe EstrelServer::Answers::Turns do
  include ApiHelper

  let(:settings) { EstrelServer.settings }
  let(:held) { [] }

  after { held.each(&:close) }

  # A web process of its own, as far as turns go, whose one route is heavy.
  def process(patience: 0, &answer)
    answer ||= ->(_) { [200, {}, []] }
    route = ->(env) { env[described_class::KEY] ? throw(described_class::KEY, env["account"]) : answer.call(env) }
    described_class.new(route, settings, patience: patience)
  end

  def taken?(turns, account)
    status, headers, body = turns.call({ "account" => account, "rack.input" => StringIO.new })
    held << body if status == 200
    expect(headers["retry-after"]).to eq(status == 429 ? "1" : nil)
    status == 200
  end

  it "gives an account two at a time, in whatever process, and a process twelve in all" do
    first = process
    second = process
    expect([taken?(first, 1), taken?(second, 1), taken?(first, 1), taken?(second, 1)]).to eq([true, true, false, false])
    expect((2..7).flat_map { |account| Array.new(2) { taken?(first, account) } }).to eq([*[true] * 11, false])
    expect(taken?(second, 7)).to be(true)
    held.shift.close
    expect([taken?(first, 1), taken?(second, 1)]).to eq([true, false])
  end

  it "waits for a turn that ends within the time, for two questions of an account" do
    turns = process(patience: 20)
    2.times { taken?(turns, 1) }
    waiting = Array.new(2) { Thread.new { taken?(turns, 1) } }
    sleep 0.01 until waiting.all?(&:stop?)
    expect(taken?(turns, 1)).to be(false)
    held.shift(2).each(&:close)
    expect(waiting.map(&:value)).to eq([true, true])
  end

  it "drops a download that nobody reads" do
    file = Tempfile.new("large").tap { |one| one.truncate(50_000_000) }
    ended = Queue.new
    body = Rack::BodyProxy.new(File.open(file.path)) { ended << true }
    app = EstrelServer::Unread.new(->(_) { [200, {}, body] }, seconds: 1)
    server = Puma::Server.new(app, nil, log_writer: Puma::LogWriter.strings)
    socket = server.add_tcp_listener("127.0.0.1", 0).addr[1].then { |port| server.run && TCPSocket.new("127.0.0.1", port) }
    socket.write("GET / HTTP/1.1\r\nHost: x\r\n\r\n")
    expect(Timeout.timeout(20) { ended.pop }).to be(true)
  ensure
    server&.stop(true)
  end

  it "ends a turn with the response, and with what is raised" do
    raising = process { raise "no" }
    3.times { expect { taken?(raising, 7) }.to raise_error("no") }
    expect(Array.new(3) { taken?(process, 7) }).to eq([true, true, false])
    held.shift(2).each(&:close)
    expect(taken?(process, 7)).to be(true)
  end

  it "refuses a third question with the time after which to ask again, and answers what is light" do
    fill
    sign_in("analyst")
    others = process
    2.times { taken?(others, EstrelServer::Account.find_by!(email: "analyst@estrel.example").id) }
    refused = call(:post, "/analyses/trends", { series: [{ event: "ride_ended" }] })
    expect([refused["status"], refused["detail"], last_response["retry-after"]]).to match([429, /2 of your questions are being answered/, "1"])
    expect(call(:get, "/workspace")).to include("ready" => true)
    held.shift.close
    expect(call(:post, "/analyses/trends", { series: [{ event: "ride_ended" }] })).to include("finding")
    expect(call(:post, "/analyses/trends", { series: [{ event: "ride_ended" }] })).to include("finding")
  end
end
