# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::Access::SecondFactor do
  include ApiHelper

  let(:password) { "a long enough password" }
  let!(:account) { EstrelServer::Account.create!(email: "ada@estrel.example", role: "administrator", password: password) }

  before { later(0) }

  # So many seconds after the beginning.
  def later(seconds) = allow(Time).to receive(:now).and_return(Time.utc(2026, 5, 1, 12) + seconds)

  # As a browser does; each keeps its cookie.
  def ask(verb, path, body = nil, cookie = nil)
    env = { "HTTP_COOKIE" => cookie ? "estrel_session=#{cookie}" : "", "HTTP_USER_AGENT" => "Browser of #{cookie ? "old" : "new"}", "REMOTE_ADDR" => "203.0.113.#{rand(250)}" }
    status, text = raw(verb, path, body && "application/json", body && JSON.generate(body), **env)
    [status, text.empty? ? nil : JSON.parse(text)]
  end

  def enter(**more) = ask("POST", "/session", { email: account.email, password: password, **more })

  def session = EstrelServer::AccountSession.open(account)

  # What an application on a phone shows.
  def shown(secret) = ROTP::TOTP.new(secret.delete(" ")).at(Time.now)

  def set_up(cookie = session)
    secret = ask("POST", "/account/second-factor", { password: password }, cookie).last["secret"]
    codes = ask("PUT", "/account/second-factor", { code: shown(secret) }, cookie).last["codes"]
    [secret, codes]
  end

  it "is set up by whoever knows the password, once a code has been right; all other sessions end" do
    cookie = session
    elsewhere = session
    expect(ask("POST", "/account/second-factor", { password: "wrong" }, cookie).first).to eq(422)
    proposed = ask("POST", "/account/second-factor", { password: password }, cookie)
    expect(proposed.last["picture"]).to start_with("<svg")
    expect(enter.first).to eq(200)
    expect(ask("PUT", "/account/second-factor", { code: "000000" }, cookie).last["detail"]).to match(/The code is wrong/)
    secret = proposed.last["secret"]
    status, confirmed = ask("PUT", "/account/second-factor", { code: shown(secret) }, cookie)
    expect([status, confirmed["codes"].uniq.size]).to eq([200, 10])
    expect(ask("GET", "/account", nil, elsewhere).first).to eq(401)
    expect(EstrelServer::Record.connection.select_value("SELECT totp_secret FROM accounts")).not_to include(secret.delete(" "))
  end

  it "takes each code once, within half a minute, and each of those that were kept" do
    secret, codes = set_up
    later(60)
    expect(enter).to match([401, include("errors" => [include("place" => "code")])])
    expect([enter(code: shown(secret)), enter(code: shown(secret))].map(&:first)).to eq([200, 401])
    later(180)
    expect(enter(code: ROTP::TOTP.new(secret.delete(" ")).at(Time.now - 120)).first).to eq(401)
    expect(enter(code: ROTP::TOTP.new(secret.delete(" ")).at(Time.now + 25)).first).to eq(200)
    kept = codes.first
    later(400)
    expect([enter(code: kept.upcase), enter(code: kept)].map(&:first)).to eq([200, 401])
    expect(ask("GET", "/account", nil, session).last).to include("codes_left" => 9)
    expect(EstrelServer::AuditEntry.where(action: "sign-in refused", who: account.email).count).to be_positive
  end

  it "asks for it where the password is set anew by a link, which is not used up by a wrong one" do
    secret, = set_up
    later(60)
    key = EstrelServer::OneTimeLink.issue(account)
    use = ->(code) { ask("POST", "/session/link", { key: key, password: "another long password", code: code }).first }
    expect([use.call(""), use.call("000000"), account.reload.authenticate(password) && true]).to eq([401, 401, true])
    expect([use.call(shown(secret)), account.reload.authenticate("another long password") && true]).to eq([200, true])
  end

  it "holds everything else up where it is asked of somebody who has none, and can be taken away by an administrator" do
    settings = EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_SECOND_FACTOR" => "administrators"))
    allow(EstrelServer).to receive(:settings).and_return(settings)
    cookie = session
    expect(ask("GET", "/session", nil, cookie).last["account"]).to include("second_factor" => "missing")
    expect([ask("GET", "/accounts", nil, cookie), ask("GET", "/people", nil, cookie)].map { |status, told| [status, told["detail"]] }.uniq).to eq([[403, "Set up two-factor authentication first, under Account."]])
    analyst = EstrelServer::AccountSession.open(EstrelServer::Account.create!(email: "ben@estrel.example", role: "analyst"))
    expect(ask("GET", "/people", nil, analyst).first).to eq(409)
    token = EstrelServer::ApiToken.issue(account, "job", ["read"]).last
    expect(raw("GET", "/people", HTTP_COOKIE: "", HTTP_AUTHORIZATION: "Bearer #{token}").first).to eq(409)
    expect(ask("GET", "/account", nil, cookie).first).to eq(200)
    expect(ask("POST", "/account/tokens", { name: "a way around", scopes: ["administer"] }, cookie).first).to eq(403)
    set_up(cookie)
    mine = session
    expect(ask("GET", "/accounts", nil, mine).last["accounts"].map { |row| row["second_factor"] }).to eq(%w[on off])
    expect(ask("DELETE", "/accounts/#{account.id}/second-factor", nil, analyst).first).to eq(403)
    expect(ask("DELETE", "/accounts/#{account.id}/second-factor", nil, mine)).to match([200, include("second_factor" => "missing")])
    expect([ask("GET", "/account", nil, mine).first, enter.first]).to eq([401, 200])
  end

  it "lists where somebody is signed in, and signs out of one or of all others" do
    here, other, third = Array.new(3) { EstrelServer::AccountSession.open(account, from_address: "203.0.113.9", agent: "A browser") }
    sessions = ask("GET", "/account", nil, here).last["sessions"]
    expect(sessions.map { |row| row.values_at("here", "from_address", "agent") }).to contain_exactly([true, "203.0.113.9", "A browser"], *[[false, "203.0.113.9", "A browser"]] * 2)
    strange = EstrelServer::AccountSession.open(EstrelServer::Account.create!(email: "ben@estrel.example", role: "analyst"))
    theirs = EstrelServer::AccountSession.of(strange).id
    expect(ask("DELETE", "/account/sessions/#{theirs}", nil, here).first).to eq(404)
    gone = EstrelServer::AccountSession.of(third).id
    expect(ask("DELETE", "/account/sessions/#{gone}", nil, here).last["sessions"].size).to eq(2)
    expect(ask("DELETE", "/account/sessions", nil, here).last["sessions"].map { |row| row["here"] }).to eq([true])
    expect([here, other, third, strange].map { |cookie| ask("GET", "/account", nil, cookie).first }).to eq([200, 401, 401, 200])
    later(EstrelServer::AccountSession::IDLE + 1)
    fresh = session
    EstrelServer::AccountSession.clear_old
    expect([EstrelServer::AccountSession.count, ask("GET", "/account", nil, fresh).first]).to eq([1, 200])
  end
end
