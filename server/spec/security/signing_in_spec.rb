# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::API::SessionEndpoint do
  include ApiHelper

  let(:password) { "a long enough password" }
  let!(:account) { EstrelServer::Account.create!(email: "ada@estrel.example", role: "analyst", password: password) }

  def try(body, path = "/session", **headers) = raw("POST", path, "application/json", body.is_a?(String) ? body : JSON.generate(body), **headers).first

  def token_answer(token) = raw("GET", "/people", HTTP_COOKIE: "", HTTP_AUTHORIZATION: "Bearer #{token}").first

  # Twice as many as a minute has, since one may end in between.
  def held?(&) = Array.new(2 * EstrelServer::Access::Attempts::BY_ACCOUNT, &).include?(429)

  it "holds whoever guesses, by account and by peer, however the request is written" do
    started = Time.now.utc
    wrong = ->(index) { [" ada@estrel.example", "ADA@estrel.example "][index % 2] }
    expect(held? { |index| try({ email: wrong.call(index), password: "x", padding: "p" * (index * 2_000) }, REMOTE_ADDR: "203.0.113.#{index}", HTTP_X_FORWARDED_FOR: "198.51.100.#{index}") }).to be(true)
    expect(%w[/session/ //session /%73ession /Session].map { |path| try({ email: "ada@estrel.example", password: password }, path) }).to eq([404] * 4)
    peers = Array.new(50) { |index| try({ email: "somebody#{index}@estrel.example", password: "x" }, REMOTE_ADDR: "203.0.113.99", HTTP_X_FORWARDED_FOR: "198.51.100.#{index}") }
    expect(peers).to include(401, 429)
    expect(try({ email: "new@estrel.example", password: "x" }, REMOTE_ADDR: "203.0.113.100")).to eq(401)
    expect(held? { try({ key: "guess", password: password }, "/session/link", REMOTE_ADDR: "203.0.113.101") }).to be(true)
    expect(EstrelServer::AuditEntry.where(action: "sign-in refused", at: started..).distinct.pluck(:from_address)).to all(start_with("203.0.113."))
  end

  it "lets tokens do nothing about accounts, and ends them with what they were issued on" do
    administrator = EstrelServer::Account.create!(email: "root@estrel.example", role: "administrator")
    token = EstrelServer::ApiToken.issue(administrator, "all", %w[read write administer]).last
    theirs = { HTTP_COOKIE: "", HTTP_AUTHORIZATION: "Bearer #{token}" }
    tried = [["POST", "/account/tokens", { name: "x", scopes: ["administer"] }], ["PUT", "/account/password", { password: password }], ["POST", "/accounts", { email: "e@estrel.example", role: "administrator" }],
             ["PUT", "/accounts/#{account.id}", { role: "administrator" }], ["POST", "/accounts/#{account.id}/link", {}], ["GET", "/account", nil]]
    expect(tried.map { |verb, path, body| raw(verb, path, "application/json", JSON.generate(body), **theirs).first }).to eq([403] * 6)
    issue = -> { EstrelServer::ApiToken.issue(account.reload, "job", ["read"]).last }
    sign_in
    old = issue.call
    call(:put, "/accounts/#{account.id}", { role: "viewer" })
    shut = issue.call
    call(:put, "/accounts/#{account.id}", { disabled: true })
    expect(call(:put, "/accounts/#{account.id}", { role: "analyst" })).to include("disabled" => true, "role" => "analyst")
    call(:put, "/accounts/#{account.id}", { disabled: false })
    before = issue.call
    account.reload.change_password("another long password")
    expect([old, shut, before, issue.call].map { |one| token_answer(one) }).to eq([401, 401, 401, 409])
  end

  it "signs in to the demo by one click only where the demo's own loader has said that it is one, until own data come" do
    allow(EstrelServer).to receive(:settings).and_return(EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_DEMO" => "on")))
    EstrelServer::Source.create!(name: "campaigns")
    expect(try({}, "/session/demo")).to eq(403)
    mark = -> { EstrelServer::Workspace.current.update!(demo: true) }
    mark.call
    expect([try({}, "/session/demo"), try({}, "/session/demo", HTTP_X_FORWARDED_FOR: "127.0.0.1"), try({}, "/session/demo", REMOTE_ADDR: "192.0.2.1")]).to eq([200, 403, 403])
    import(event("1"))
    expect(try({}, "/session/demo")).to eq(403)
    mark.call
    sender = Class.new { include CollectorHelper, RSpec::Matchers, ImportHelper }.new
    demo_key = EstrelServer::SendingKey.issue(EstrelServer::Source.find_by!(name: "campaigns"), demo: true).last
    own_key = sender.key_for("own")
    sender.send_batch([sender.cloud_event("1", source: "campaigns")], key: demo_key)
    expect(try({}, "/session/demo")).to eq(200)
    sender.send_batch([sender.cloud_event("2", source: "own")], key: own_key)
    expect(try({}, "/session/demo")).to eq(403)
  end

  it "lets everybody read alerts for herself" do
    fill
    rule = EstrelServer::AlertRule.create!(kind: "dormant_grew", settings: {})
    EstrelServer::Alert.create!(alert_rule: rule, about: Date.new(2026, 5, 20), text: "Look here", created_at: Time.now.utc)
    sign_in("viewer")
    expect([call(:get, "/alerts")["unread"], call(:post, "/alerts/read")["unread"], call(:get, "/alerts")["unread"]]).to eq([1, 0, 0])
    sign_in("analyst", email: "other@estrel.example")
    expect(call(:get, "/alerts")["unread"]).to eq(1)
  end

  it "believes what a proxy says about the peer only where the proxy is known" do
    seen = ->(trusted, **env) { EstrelServer::Access::Proxy.new(->(found) { found }, trusted.map { |text| IPAddr.new(text) }).call({ "REMOTE_ADDR" => "10.0.0.5", "rack.url_scheme" => "http", **env.transform_keys(&:to_s) }).values_at("REMOTE_ADDR", "rack.url_scheme", "HTTP_X_FORWARDED_FOR") }
    forwarded = { HTTP_X_FORWARDED_FOR: "1.2.3.4, 203.0.113.9, 10.0.0.7", HTTP_X_FORWARDED_PROTO: "https" }
    expect(seen.call([], **forwarded)).to eq(["10.0.0.5", "http", nil])
    expect(seen.call(["10.0.0.0/24"], **forwarded)).to eq(["203.0.113.9", "https", nil])
    expect(seen.call(["10.0.0.0/24"], HTTP_X_FORWARDED_FOR: "nonsense")).to eq(["10.0.0.5", "http", nil])
  end
end
