# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::Access::ProviderSignIn do
  let(:provider) { StandInProvider.new.tap { |one| one.claims = {} } }
  let(:more) { {} }
  let(:settings) do
    EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_OIDC_ISSUER" => provider.issuer, "ESTREL_OIDC_CLIENT" => StandInProvider::CLIENT,
                                               "ESTREL_OIDC_SECRET" => StandInProvider::SECRET, "ESTREL_OIDC_NAME" => "Ferrowick", **more))
  end
  let(:app) { EstrelServer::Application.build(settings) }
  let!(:account) { EstrelServer::Account.create!(email: "ada@estrel.example", role: "analyst") }

  before do
    allow(EstrelServer).to receive(:settings).and_return(settings)
    EstrelServer::Log.output = StringIO.new
  end

  after do
    provider.stop
    EstrelServer::Log.output = nil
  end

  def get(path, query = {}, cookies = {})
    env = Rack::MockRequest.env_for("#{path}?#{Rack::Utils.build_query(query)}", "HTTP_HOST" => "127.0.0.1:4270", "REMOTE_ADDR" => "203.0.113.#{rand(250)}",
                                                                                 "HTTP_COOKIE" => cookies.map { |name, value| "#{name}=#{Rack::Utils.escape(value)}" }.join("; "))
    status, headers, body = app.call(env)
    text = body.each.to_a.join
    [status, headers, text]
  end

  def cookie(headers, name) = Array(headers["set-cookie"]).join("\n")[/^#{name}=([^;\n]+)/, 1]&.then { |text| Rack::Utils.unescape(text) }

  def begun
    status, headers, = get("/sign-in/begin")
    expect(status).to eq(302)
    [headers["location"], cookie(headers, "estrel_signing_in")]
  end

  # There and back; the session's key, or why there is none.
  def enter(cookies: nil, **changes)
    address, away = begun
    back = provider.visit(address).slice("code", "state").merge(changes.transform_keys(&:to_s))
    status, headers, text = get("/sign-in/return", back, cookies || { "estrel_signing_in" => away })
    status == 200 ? cookie(headers, "estrel_session") : text[%r{<p>(.*?)</p>}, 1]
  end

  it "lets in whom the provider names, by the address first and by the provider's own name from then on" do
    key = enter
    session = EstrelServer::AccountSession.of(key)
    expect([session.account, session.through]).to eq([account, "provider"])
    expect(begun.first).to include("code_challenge_method=S256", "scope=openid%20email", Rack::Utils.escape("http://127.0.0.1:4270/sign-in/return"))
    account.update!(email: "ada.lovelace@estrel.example")
    expect(EstrelServer::AccountSession.of(enter).account).to eq(account)
    # The address has been given to somebody else since.
    account.update!(email: "ada@estrel.example")
    provider.claims = { sub: "8" }
    expect(enter).to match(/There is no account for ada@estrel.example/)
    provider.claims = { sub: "7" }
    account.update!(disabled_at: Time.now.utc)
    expect(enter).to match(/There is no account/)
    expect(EstrelServer::AuditEntry.where(about: "Ferrowick").distinct.pluck(:action)).to contain_exactly("signed in", "sign-in refused")
  end

  it "believes nothing that is not signed, or is about another time, place or journey" do
    other = OpenSSL::PKey::RSA.new(2048)
    lies = [->(said) { provider.token(said, other) }, ->(said) { provider.token(said, nil, :none) }, ->(said) { provider.token(said, provider.public_key, :HS256) },
            ->(said) { provider.token({ **said, exp: Time.now.to_i - 60 }) }, ->(said) { provider.token({ **said, aud: "another" }) }, ->(said) { provider.token({ **said, iss: "https://elsewhere.example" }) },
            ->(said) { provider.token({ **said, nonce: "another" }) }, ->(said) { provider.token(said.except(:nonce)) }, ->(_) { "nonsense" }, ->(_) {}]
    said = lies.map do |lie|
      provider.lie = lie
      enter
    end
    expect(said).to all(match(/What Ferrowick says cannot be believed/))
    provider.lie = nil
    provider.claims = { email_verified: false }
    expect(enter).to match(/has not verified your email address/)
    provider.claims = { email: nil }
    expect(enter).to match(/did not provide your email address/)
    provider.claims = {}
    expect([enter(state: "another"), enter(cookies: {}), enter(cookies: { "estrel_signing_in" => begun.last }), enter(cookies: { "estrel_signing_in" => "made up" })]).to all(match(/could not be verified; start again/))
    expect([enter(code: "guessed"), enter(code: "")]).to match([/cannot be believed/, /refused the sign-in/])
    expect(EstrelServer::AccountSession.count).to eq(0)
    address, away = begun
    back = provider.visit(address)
    allow(Time).to receive(:now).and_return(Time.now + described_class::LONGEST + 1)
    expect(get("/sign-in/return", back, { "estrel_signing_in" => away }).last).to match(/could not be verified; start again/)
  end

  context "with a role for whoever the provider names" do
    let(:more) { { "ESTREL_OIDC_ROLE" => "viewer" } }

    it "says so where the database refuses the account" do
      provider.claims = { sub: "9", email: "#{"x" * 300}@estrel.example" }
      expect(enter).to match(/cannot be stored/)
    end
  end

  it "says so where the database refuses the binding, and ends what an unconfirmed account signed in with" do
    provider.claims = { sub: "s" * 2000 }
    expect(enter).to match(/cannot be stored/)
    provider.claims = {}
    account.update!(confirmed: false, password: "somebody else set this")
    expect { enter }.to change { account.reload.password_digest }.to(nil)
    account.update!(password: "Ada has set this one")
    expect { enter }.not_to(change { account.reload.password_digest })
  end

  it "says so where the provider does not answer, and is not there where none is named" do
    provider.stop
    expect(get("/sign-in/begin")).to match([403, anything, /Ferrowick does not answer/])
    nobody = described_class.new(nil, settings)
    expect(nobody.call(Rack::MockRequest.env_for("/sign-in/begin")).first).to eq(404)
    { "ESTREL_OIDC_ISSUER" => "http://accounts.example", "ESTREL_OIDC_CLIENT" => "x" }.then do |env|
      expect { EstrelServer::Settings.from(env) }.to raise_error(EstrelServer::Settings::Invalid, /must be an https address/)
    end
    expect { EstrelServer::Settings.from({ "ESTREL_OIDC_ISSUER" => "https://accounts.example" }) }.to raise_error(EstrelServer::Settings::Invalid, /are missing/)
  end

  context "when accounts may be made, and a second factor is asked of everybody" do
    let(:more) { { "ESTREL_OIDC_ROLE" => "viewer", "ESTREL_SECOND_FACTOR" => "everybody" } }

    it "makes one with that role, which the provider has asked for all that is needed" do
      provider.claims = { sub: "9", email: "New@estrel.example" }
      session = EstrelServer::AccountSession.of(enter)
      expect(session.account).to have_attributes(email: "new@estrel.example", role: "viewer", password_digest: nil)
      expect(EstrelServer::Access::Bearer.new(session.account, session: session)).not_to be_held_up
      expect(EstrelServer::Access::Bearer.new(session.account, session: EstrelServer::AccountSession.of(EstrelServer::AccountSession.open(session.account)))).to be_held_up
    end
  end
end
