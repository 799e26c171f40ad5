# frozen_string_literal: true

require_relative "../server_helper"
require "webauthn/fake_client"

RSpec.describe EstrelServer::Access::Passkeys do
  include ApiHelper

  let(:address) { "http://localhost:4270" }
  let(:device) { WebAuthn::FakeClient.new(address, encoding: :base64url) }
  let(:password) { "a long enough password" }
  let!(:account) { EstrelServer::Account.create!(email: "ada@estrel.example", role: "analyst", password: password) }

  before do
    settings = EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_PUBLIC_URL" => address))
    allow(EstrelServer).to receive(:settings).and_return(settings)
    sign_in("analyst", email: account.email)
  end

  def begin_making = call(:post, "/account/passkeys/begin", { password: password })["options"]

  def make(from = device, challenge: begin_making["challenge"], **more)
    call(:post, "/account/passkeys", { credential: from.create(challenge: challenge, user_verified: true, **more), name: "Ada's phone" })
  end

  def begin_asking = call(:post, "/session/passkey/begin")["options"]["challenge"]

  def enter(challenge = begin_asking, from: device, **more)
    answer = from.get(challenge: challenge, user_verified: true, allow_credentials: [EstrelServer::Passkey.last.external_id], **more)
    call(:post, "/session/passkey", { credential: answer })
  end

  # As long as one of ours.
  def another_challenge = Base64.urlsafe_encode64(SecureRandom.random_bytes(32), padding: false)

  def status = last_response.status

  # The challenge's cookie, as the last response set it.
  def sent_cookie = Array(last_response.headers["set-cookie"]).join("\n").lines.grep(/\Aestrel_passkey=[^;]/).last.split(";").first

  it "is made by whoever knows the password, and signs in without one, also where there is a second factor" do
    expect(call(:post, "/account/passkeys/begin", { password: "wrong" })["detail"]).to include("wrong")
    expect(begin_making).to include("rp" => { "name" => "Estrel", "id" => "localhost" }, "excludeCredentials" => [])
    expect(make).to include("name" => "Ada's phone", "used_at" => nil)
    expect(call(:get, "/account")["passkeys"].map { |row| row["name"] }).to eq(["Ada's phone"])
    expect(begin_making["excludeCredentials"].size).to eq(1)
    account.update!(second_factor_at: Time.now.utc, totp_secret: "JBSWY3DPEHPK3PXP")
    sign_out
    expect(enter["account"]).to include("email" => account.email)
    expect(call(:get, "/account")["passkeys"].first["used_at"]).not_to be_nil
    expect(EstrelServer::AccountSession.last.through).to eq("passkey")
  end

  it "lets nobody in by what was asked elsewhere, answered before, not checked by the device, or is no longer known" do
    make
    sign_out
    challenge = begin_asking
    answer = device.get(challenge: challenge, user_verified: true, allow_credentials: [EstrelServer::Passkey.last.external_id])
    cookie = last_response.headers["set-cookie"]
    call(:post, "/session/passkey", { credential: answer })
    expect(status).to eq(200)
    clear_cookies
    set_cookie(Array(cookie).join.split(";").first)
    call(:post, "/session/passkey", { credential: answer })
    expect([status, JSON.parse(last_response.body)["detail"]]).to match([401, /not known here/])
    clear_cookies
    [-> { enter(another_challenge) }, -> { enter(user_verified: false) }, -> { begin_asking && enter(another_challenge) }].each { |try| expect { try.call }.not_to change(EstrelServer::AccountSession, :count) }
    elsewhere = WebAuthn::FakeClient.new("http://localhost:4271", encoding: :base64url, authenticator: device.send(:authenticator))
    enter(from: elsewhere, rp_id: "localhost")
    expect(status).to eq(401)
    FileUtils.rm_rf(EstrelServer.settings.attempts_directory)
    account.update!(disabled_at: Time.now.utc)
    enter
    expect(status).to eq(401)
    account.update!(disabled_at: nil)
    account.forget_devices
    call(:post, "/session/passkey", { credential: answer })
    expect([status, EstrelServer::AuditEntry.where(action: "sign-in refused", about: "passkey").count]).to match([401, a_value > 3])
  end

  it "adds no passkey by a challenge for signing in, which needs no password, nor by another account's" do
    challenge = begin_asking
    expect { make(challenge: challenge) }.not_to change(EstrelServer::Passkey, :count)
    expect(status).to eq(422)
    challenge = begin_making["challenge"]
    cookie = sent_cookie
    sign_in("analyst", email: "other@estrel.example")
    set_cookie(cookie)
    expect { make(challenge: challenge) }.not_to change(EstrelServer::Passkey, :count)
  end

  it "signs in once by each answer, whatever was answered since" do
    make
    answers = Array.new(2) do
      challenge = begin_asking
      [sent_cookie, device.get(challenge: challenge, user_verified: true, allow_credentials: [EstrelServer::Passkey.last.external_id])]
    end
    statuses = (answers * 2).map do |cookie, answer|
      clear_cookies
      set_cookie(cookie)
      call(:post, "/session/passkey", { credential: answer })
      status
    end
    expect(statuses).to eq([200, 200, 401, 401])
    expect { EstrelServer::UsedChallenge.update_all(expires_at: 1.minute.ago) && EstrelServer::UsedChallenge.clear_old }.to change(EstrelServer::UsedChallenge, :count).to(0)
  end

  it "needs a sign-in of the last minutes where the account has no password, and goes with the password if asked to" do
    make
    call(:put, "/account/password", { before: password, password: "another long password", remove_passkeys: true })
    expect([status, EstrelServer::Passkey.count]).to eq([200, 0])
    account.update!(password_digest: nil)
    expect(begin_making).to include("rp")
    EstrelServer::AccountSession.update_all(created_at: 11.minutes.ago)
    tried = [[:post, "/account/passkeys/begin", { password: "" }], [:post, "/account/second-factor", { password: "" }], [:put, "/account/password", { password: "yet another long password" }]].map { |verb, path, body| call(verb, path, body)["detail"] }
    expect(tried).to all(match(/sign out, sign in again/))
  end

  it "takes only what this browser was asked for, and survives whatever else comes" do
    expect { make(challenge: another_challenge) }.not_to change(EstrelServer::Passkey, :count)
    expect { make(user_verified: false) }.not_to change(EstrelServer::Passkey, :count)
    challenge = begin_making["challenge"]
    make(challenge: challenge)
    make(challenge: challenge)
    expect([status, EstrelServer::Passkey.count]).to eq([422, 1])
    made = device.create(challenge: begin_making["challenge"], user_verified: true)
    [made.merge("response" => {}), made.merge("response" => made["response"].transform_values { "x" }), made.merge("id" => ""), made.merge("response" => { "clientDataJSON" => "e30" })].each do |broken|
      begin_making
      call(:post, "/account/passkeys", { credential: broken, name: "x" })
      expect(status).to eq(422)
      begin_asking
      call(:post, "/session/passkey", { credential: broken })
      expect(status).to eq(401)
    end
  end

  it "is taken away by its owner alone, and is not offered where Estrel has no name" do
    make
    id = EstrelServer::Passkey.last.id
    sign_in("administrator", email: "other@estrel.example")
    call(:delete, "/account/passkeys/#{id}")
    expect(status).to eq(404)
    sign_in("analyst", email: account.email)
    expect([call(:delete, "/account/passkeys/#{id}")["id"], EstrelServer::Passkey.count]).to eq([id, 0])
    expect(call(:get, "/session")["passkeys"]).to be(true)
    allow(EstrelServer).to receive(:settings).and_return(EstrelServer::Settings.from(ENV.to_h))
    expect([call(:get, "/session")["passkeys"], call(:post, "/session/passkey/begin")["detail"]]).to match([false, /set ESTREL_PUBLIC_URL/])
  end
end
