# frozen_string_literal: true

require_relative "../server_helper"
require "puma"

RSpec.describe EstrelServer::BodyLimits do
  include CollectorHelper

  let(:account) { EstrelServer::Account.create!(email: "ada@estrel.example", role: "analyst") }

  let(:servers) { {} }

  # The policy belongs to the process, in which other specs run servers of their own.
  after do
    servers.each_key { |server| server.stop(true) }
    described_class.policy = nil
  end

  def serve(app, policy)
    described_class.install(policy)
    server = Puma::Server.new(app, nil, log_writer: Puma::LogWriter.strings, max_threads: 2)
    servers[server] = server.add_tcp_listener("127.0.0.1", 0).addr[1]
    server.run
  end

  def web = serve(EstrelServer::Application.build, described_class::Web.new(EstrelServer.settings))

  def collector
    app = Rack::Builder.app do
      use EstrelServer::BodyLimits::Answering, EstrelServer::Collecting::Application::CORS
      use EstrelServer::Workspaces::Chooser
      run EstrelServer::Collecting::Application
    end
    serve(app, described_class::Collector.new)
  end

  # Sends the head of a request, and of its body what the block writes; the response's status, headers and body.
  def request(path, **headers)
    socket = TCPSocket.new("127.0.0.1", servers.values.last)
    lines = { "Host" => "127.0.0.1:4270", "Content-Type" => "application/json", **headers.to_h { |name, value| [name.to_s.tr("_", "-"), value] } }
    socket.write("POST #{path} HTTP/1.1\r\n#{lines.map { |name, value| "#{name}: #{value}\r\n" }.join}\r\n")
    yield(socket) if block_given?
    head, body = Timeout.timeout(20) { socket.read }.split("\r\n\r\n", 2)
    [head[/ (\d+) /, 1].to_i, head, body]
  rescue Errno::ECONNRESET, Errno::EPIPE
    [:closed]
  ensure
    socket.close
  end

  # A body without a length in its head, as long as it is read.
  def chunks(socket, megabytes)
    (megabytes * 16).times { socket.write("10000\r\n#{" " * 65_536}\r\n") }
    socket.write("0\r\n\r\n")
  end

  it "has the collector read no body without a valid key, and none that is longer than it takes" do
    collector
    key = "Bearer #{key_for("app")}"
    status, head, body = request("/events", Content_Length: 4_000_000_000, Authorization: "Bearer ek_guessed")
    expect([status, JSON.parse(body)["detail"]]).to match([401, /key is unknown/])
    expect(head).to match(/access-control-allow-origin: \*/i)
    expect(request("/events", Transfer_Encoding: "chunked").first).to eq(401)
    status, _, body = request("/events", Content_Length: 4_194_305, Authorization: key)
    expect([status, JSON.parse(body)["detail"]]).to match([413, /longer than 4194304 bytes/])
    expect(request("/events", Transfer_Encoding: "chunked", Authorization: key) { |socket| chunks(socket, 6) }.first).to eq(413).or(eq(:closed))
    expect(request("/events", Transfer_Encoding: "chunked", Connection: "close", Authorization: key) { |socket| chunks(socket, 1) }.first).to eq(415)
  end

  it "has the web server read long bodies only on routes that take files, of users who may upload them" do
    web
    expect(request("/api/imports", Content_Length: 2_000_000_000).first).to eq(401)
    expect(request("/api/imports", Transfer_Encoding: "chunked").first).to eq(401)
    expect(request("/api/audiences", Content_Length: 1_048_577).first).to eq(413)
    expect(request("/api/%69mports", Content_Length: 2_000_000).first).to eq(413)
    session = "estrel_session=#{EstrelServer::AccountSession.open(account)}"
    big = { Content_Length: 3_000_000, Connection: "close", Cookie: session, Origin: "http://127.0.0.1:4270" }
    expect(request("/api/imports", **big, Content_Type: "multipart/form-data; boundary=x") { |socket| socket.write(" " * 3_000_000) }.first).to eq(400)
    expect(request("/api/imports", **big, Content_Length: 3_000_000_000).first).to eq(413)
    expect(request("/api/audiences", **big).first).to eq(413)
    account.update!(role: "viewer")
    expect(request("/api/imports", **big).first).to eq(401)
    expect(request("/w/nowhere/api/imports", **big).first).to eq(401)
  end
end
