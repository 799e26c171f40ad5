# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe "Estrel behind a proxy with TLS, as docs/examples/nginx.conf has it" do
  let(:public_url) { "https://estrel.example:#{front.port}" }
  let(:stack) { CrashStack.new(File.join(ROOT, "var/https")) }
  let(:front) { TlsFront.new(File.join(ROOT, "var/https-proxy"), stack.settings.port, stack.settings.collector_port) }

  before do
    stack.settle("ESTREL_PUBLIC_URL" => public_url, "ESTREL_COLLECTOR_URL" => "https://collect.estrel.example:#{front.port}", "ESTREL_TRUSTED_PROXIES" => "127.0.0.1", "ESTREL_UPLOAD_MB" => "2")
    stack.start(:collector, :web)
    front.start
  end

  after do
    front.stop
    stack.stop
  end

  def link = stack.estrel("account", "add", "#{SecureRandom.hex(4)}@estrel.example", "--role", "administrator")[/https:\S+/]

  def sign_in(**headers)
    body = JSON.generate(key: link.split("/").last, password: "a long enough password")
    front.request(:post, "/api/session/link", body, content_type: "application/json", origin: public_url, **headers)
  end

  it "is reached by its public name, with a cookie for https alone, and sends everybody there" do
    expect(link).to start_with("#{public_url}/link/")
    answer = sign_in(x_forwarded_for: "198.51.100.7")
    expect([answer.code, answer["set-cookie"]]).to match(["200", /\A__Host-estrel_session=.*secure/i])
    expect(answer["strict-transport-security"]).to eq("max-age=31536000")
    cookie = answer["set-cookie"].split(";").first
    made = front.request(:post, "/api/sources", JSON.generate(name: "shop"), content_type: "application/json", origin: public_url, cookie: cookie)
    expect(made.code).to eq("201")
    expect(JSON.parse(front.request(:get, "/api/sources", cookie: cookie).body)["collector"]).to eq("https://collect.estrel.example:#{front.port}/events")
    foreign = front.request(:post, "/api/sources", JSON.generate(name: "x"), content_type: "application/json", origin: "https://elsewhere.example", cookie: cookie)
    expect(foreign.code).to eq("403")
    log = JSON.parse(front.request(:get, "/api/log", cookie: cookie).body)["entries"]
    expect(log.find { |row| row["action"] == "signed in" }["from_address"]).to eq("127.0.0.1")
    plain = Net::HTTP.start("127.0.0.1", front.plain_port) { |http| http.get("/lifecycle", "host" => "estrel.example") }
    expect([plain.code, plain["location"]]).to eq(["301", "https://estrel.example/lifecycle"])
    key = JSON.parse(made.body)["key"]
    event = JSON.generate(specversion: "1.0", id: "1", source: "shop", type: "ride_ended", subject: "customer:1", time: "2026-05-03T10:00:00Z")
    sent = front.request(:post, "/events", event, host: "collect.estrel.example", content_type: "application/cloudevents+json", authorization: "Bearer #{key}")
    expect(JSON.parse(sent.body)["stored"]).to eq(1)
    passes_live_events_on(cookie)
  end

  def passes_live_events_on(cookie)
    started = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    parts = Queue.new
    watching = Thread.new { front.request(:get, "/api/live-events/live?after=0-0-0", cookie: cookie) { |answer| answer.read_body { |part| parts << part } } }
    first = Timeout.timeout(20) { parts.pop }
    watching.kill
    expect([first.empty?, Process.clock_gettime(Process::CLOCK_MONOTONIC) - started < 10]).to eq([false, true])
  end

  it "believes nobody but the proxy, and shows strangers nothing of itself" do
    direct = lambda do |headers|
      Net::HTTP.start("127.0.0.1", stack.settings.port) { |http| http.post("/api/session", "{}", { "content-type" => "application/json" }.merge(headers)) }
    end
    expect(direct.call("host" => "elsewhere.example").code).to eq("403")
    large = TCPSocket.new("127.0.0.1", stack.settings.port)
    large.write("POST /api/imports HTTP/1.1\r\nHost: estrel.example\r\nContent-Type: multipart/form-data; boundary=x\r\nContent-Length: 2000001\r\n\r\n")
    expect(Timeout.timeout(10) { large.readpartial(10_000) }).to start_with("HTTP/1.1 401")
    large.close
    expect(direct.call("host" => "estrel.example", "origin" => "https://estrel.example:1").code).to eq("403")
    socket = TCPSocket.new("127.0.0.1", stack.settings.port)
    socket.write("GET / HTTP/1.1\r\nHost: estrel.example\r\nBroken header\r\n\r\n")
    said = Timeout.timeout(10) { socket.readpartial(10_000) }
    socket.close
    expect(said).to start_with("HTTP/1.1 400")
    expect(said).not_to match(%r{/work|\.rb|puma}i)
  end
end
