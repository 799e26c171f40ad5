# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Access do
  include ApiHelper

  let(:password) { "a long enough password" }

  def account(role, email = "#{role}@estrel.example") = EstrelServer::Account.create!(email: email, role: role, password: password)

  def status(method, path, body = nil) = call(method, path, body).then { last_response.status }

  def log = EstrelServer::AuditEntry.order(:id).pluck(:who, :action, :about)

  it "answers what can be read where nothing can be stored, and says so of the rest" do
    full = ActiveRecord::StatementInvalid.new("Trilogy::ProtocolError: 1114: The table 'account_sessions' is full")
    sign_in
    EstrelServer::AccountSession.update_all(used_at: 2.minutes.ago)
    EstrelServer::Log.output = StringIO.new
    allow_any_instance_of(EstrelServer::AccountSession).to receive(:update_columns).and_raise(full) # rubocop:disable RSpec/AnyInstance -- loaded by the request
    call(:get, "/audiences")
    expect(last_response.status).to eq(200)
    [full, Errno::ENOSPC.new, ActiveRecord::LockWaitTimeout.new("Lock wait timeout exceeded")].zip([503, 503, 409]).each do |error, status|
      allow(EstrelServer::Annotation).to receive(:create!).and_raise(error)
      answer = call(:post, "/annotations", { date: "2026-05-03", text: "x" })
      expect([last_response.status, answer["detail"]]).to match([status, /try again/])
    end
    allow(EstrelServer::AccountSession).to receive(:of).and_raise(full)
    expect(call(:get, "/audiences")).to include("status" => 503)
  ensure
    EstrelServer::Log.output = nil
  end

  it "allows the sender's example page its collector, and no other spelling of its address" do
    policies = ["/sender/example.html", "/sender/%2e%2e/index.html", "/sender/..%2findex.html", "/sender/../index.html", "/"].map do |path|
      _, headers, = app.call(Rack::MockRequest.env_for("/", "HTTP_HOST" => "127.0.0.1:4270").merge("PATH_INFO" => path))
      headers["content-security-policy"]
    end
    expect(policies.first).to include("http://*:")
    expect(policies[1..].uniq).to eq([EstrelServer::Application::HEADERS["content-security-policy"]])
  end

  it "has a browser that seems to be signed in fetch what the page asks first" do
    early = ->(cookie) { app.call(Rack::MockRequest.env_for("/people", "HTTP_HOST" => "127.0.0.1:4270", "HTTP_COOKIE" => cookie))[1]["link"] }
    expect(early.call("theme=dark")).to be_nil
    paths = early.call("estrel_session=1").scan(%r{<(/api/[\w-]+)>; rel=preload; as=fetch}).flatten
    expect(paths).to eq(%w[/api/session /api/workspace /api/rule-sets /api/catalogue])
    expect(paths.map { |path| status(:get, path.delete_prefix("/api")) }).not_to include(404)
  end

  it "has it fetch the scripts of the place, too, and knows them for every place" do
    scripts = lambda do |address|
      link = app.call(Rack::MockRequest.env_for("/", "HTTP_HOST" => "127.0.0.1:4270", "HTTP_COOKIE" => "estrel_session=1").merge("PATH_INFO" => address))[1]["link"]
      link.scan(%r{<(/assets/[\w.-]+)>; rel=modulepreload}).flatten
    end
    named = { "/" => "States", "/lifecycle/alerts" => "Alerts", "/people" => "People-", "/people/5" => "Person", "/audiences/new" => "AudienceEditor", "/analyses" => "Analyses", "/analyses/retention" => "Retention",
              "/analyses/funnel" => "Funnel" }
    named.each { |address, name| expect(scripts.call(address)).to include(%r{/assets/#{name}}), address }
    named.keys.flat_map(&scripts).uniq.each { |path| expect(app.call(Rack::MockRequest.env_for(path, "HTTP_HOST" => "127.0.0.1:4270")).first).to eq(200) }
    expect(scripts.call("/nowhere")).to eq([])
  end

  it "lets the first administrator in by a link that works once, and others by theirs" do
    sign_out
    expect(call(:get, "/session")).to eq({ "account" => nil, "demo" => false, "provider" => nil, "passkeys" => false, "set_up" => false })
    expect(status(:get, "/people")).to eq(401)
    key = EstrelServer::OneTimeLink.issue
    expect(call(:post, "/session/link", { key: key, email: "Ada@Estrel.example", password: "short" })["detail"]).to include("Password is too short")
    %w[passwordpassword qwertyuiopas 123123123123].each do |usual|
      expect(call(:post, "/session/link", { key: key, email: "Ada@Estrel.example", password: usual })["detail"]).to include("is too easy to guess"), usual
    end
    expect(call(:post, "/session/link", { key: key, email: "Ada@Estrel.example", password: password })["account"]).to include("email" => "ada@estrel.example", "role" => "administrator")
    expect(call(:get, "/session")["account"]["email"]).to eq("ada@estrel.example")
    expect(call(:post, "/session/link", { key: key, email: "eve@estrel.example", password: password })["detail"]).to include("has been used")
    made = call(:post, "/accounts", { email: "bo@estrel.example", role: "analyst" })
    expect(call(:post, "/accounts", { email: "bo@estrel.example", role: "analyst" })["detail"]).to include("has an account already")
    sign_out
    call(:post, "/session/link", { key: made["link"].split("/").last, password: password })
    expect(call(:get, "/account")["account"]).to include("email" => "bo@estrel.example", "role" => "analyst")
    expect([status(:get, "/accounts"), status(:get, "/log"), status(:post, "/workspace/clear", { confirm: "" }), status(:post, "/sources", { name: "x" })]).to eq([403] * 4)
    expect(call(:delete, "/session")["account"]).to be_nil
    expect(status(:get, "/account")).to eq(401)
    EstrelServer::OneTimeLink.update_all(expires_at: 1.minute.ago)
  end

  it "signs in by password, holds whoever guesses, and ends sessions" do
    account("analyst")
    sign_out
    expect(status(:post, "/session", { email: "analyst@estrel.example", password: "wrong" })).to eq(401)
    expect(status(:post, "/session", { email: "ANALYST@estrel.example", password: password })).to eq(200)
    expect(last_response.headers["set-cookie"]).to match(/httponly/i).and match(/samesite=strict/i)
    expect(status(:post, "/session", { email: "nobody@estrel.example", password: password })).to eq(401)
    expect(status(:get, "/account")).to eq(200)
    EstrelServer::AccountSession.update_all(used_at: Time.now.utc - EstrelServer::AccountSession::IDLE - 1)
    expect(status(:get, "/account")).to eq(401)
    expect(log.last(3).map { |row| row[1] }).to eq(["sign-in refused", "signed in", "sign-in refused"])
    # A minute may end in between, so twice as many as a minute has.
    tries = Array.new(14) { status(:post, "/session", { email: "analyst@estrel.example", password: "wrong" }) }
    expect(tries.uniq).to contain_exactly(401, 429)
    expect(EstrelServer::Account.first.password_digest).to start_with("$2a$")
  end

  it "shows viewers no personal data and lets them change nothing" do
    fill
    import(event("mail", subject: "email:c@c.example", time: "2026-05-03T10:00:00Z", data: { "note" => "write to c@c.example or +351 912 345 678" }))
    refresh
    sign_in("viewer")
    list = call(:get, "/people?as_of=2026-05-20")
    expect(list["rows"].flat_map { |row| row["identifiers"].map { |one| one["value"] } }.uniq).to eq(["•••"])
    found = list["rows"].map { |row| [call(:get, "/people/#{row["id"]}?as_of=2026-05-20"), call(:get, "/people/#{row["id"]}/events?as_of=2026-05-20")] }
    expect(found.to_json).not_to match(/example|912 345|customer:\d/)
    everybody = { "all" => [] }
    expect(call(:post, "/audiences/preview", { definition: everybody, as_of: "2026-05-20" })["size"]).to eq(7)
    expect(call(:post, "/audiences/sample", { definition: everybody, as_of: "2026-05-20" }).to_json).not_to include("example")
    refused = [[:get, "/people?search=customer:1"], [:get, "/live-events"], [:get, "/catalogue/values?attribute=export"], [:get, "/people/1/everything.json"],
               [:post, "/audiences", { name: "x", definition: everybody }], [:post, "/exports/try", { rules: {} }], [:put, "/rule-set", {}], [:post, "/people/1/erase", {}]]
    expect(refused.map { |request| status(*request) }.uniq).to eq([403])
    written = %w[/api/%61rrivals /api/%61ccounts /api//accounts /api/people/../accounts /api/%6Cog.csv].map { |path| get(path).status }
    expect(written.uniq).to eq([404])
  end

  it "lets whoever has not signed in do nothing but that, and viewers change nothing but what is their own, anywhere" do
    verbs = %w[get post put delete]
    operations = ApiHelper::DESCRIPTION["paths"].flat_map { |path, item| (item.keys & verbs).map { |verb| "#{verb} #{path}" } }
    answered = lambda do |operation, &as|
      as.call
      header("Host", "127.0.0.1:4270")
      verb, path = operation.split
      public_send(verb, "/api#{path.gsub(/\{\w+\}/, "1")}", "{}", "CONTENT_TYPE" => "application/json").status
    end
    let_in = operations.reject { |operation| answered.call(operation) { sign_out } == 401 }
    expect(let_in).to contain_exactly("get /session", "post /session", "post /session/demo", "post /session/link", "post /session/passkey", "post /session/passkey/begin", "delete /session", "get /schemas/audience-definition.json")
    expect(operations.size).to be > 100
    changes = operations.grep_v(/\Aget/).reject { |operation| answered.call(operation) { sign_in("viewer") } == 403 }
    expect(changes.grep_v(%r{ /(session|account)(/|\z)})).to match_array(
      %w[/audiences/preview /audiences/sample /audiences/trend /audiences/movement /audiences/why /alerts/read].map { |path| "post #{path}" } +
      Estrel::Analyses.all.map { |analysis| "post /analyses/#{analysis.address}" } + ["post /pages/{id}/comments", "delete /pages/{id}/comments/{comment}"]
    )
  end

  it "keeps what is private to its owner and administrators" do
    fill
    sign_in("analyst")
    mine = call(:post, "/audiences", { name: "Mine", definition: { "all" => [] } })
    expect(mine).to include("owner" => "analyst@estrel.example", "mine" => true, "private" => false)
    export = call(:post, "/exports", { name: "Mine", audience_id: mine["id"], as_of: "2026-05-20", rules: { columns: [{ take: "state" }] } })
    call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    rule_set = call(:post, "/rule-sets", { name: "Mine", activity: ["ride_ended"], new_for: 1, active_within: 2, churned_after: 3 })
    expect(call(:put, "/rule-sets/#{rule_set["id"]}/sharing", { private: true })["detail"]).to eq("The default rule set cannot be private.")
    expect(call(:put, "/audiences/#{mine["id"]}/sharing", { private: true })["detail"]).to eq("This is used by \"Mine\", so it cannot be private.")
    call(:put, "/exports/#{export["id"]}/sharing", { private: true })
    expect(call(:put, "/audiences/#{mine["id"]}/sharing", { private: true })).to include("private" => true)
    sign_in("analyst", email: "other@estrel.example")
    expect([call(:get, "/audiences")["audiences"], call(:get, "/exports")["exports"], call(:get, "/runs")["runs"]]).to eq([[], [], []])
    expect([status(:get, "/audiences/#{mine["id"]}"), status(:get, "/exports/#{export["id"]}"), status(:get, "/runs/1")]).to eq([404] * 3)
    sign_in
    expect(call(:get, "/audiences")["audiences"].map { |row| row.values_at("name", "mine", "private") }).to eq([["Mine", false, true]])
    call(:put, "/audiences/#{mine["id"]}/sharing", { private: false })
    sign_in("analyst", email: "other@estrel.example")
    expect(call(:put, "/audiences/#{mine["id"]}/sharing", { private: true })["detail"]).to include("Only analyst@estrel.example can share this or make it private")
  end

  it "gives programs tokens that can do no more than their scopes and their owner" do
    fill
    sign_in("analyst")
    reading, writing, administering = [["read"], %w[read write], ["administer"]].map { |scopes| call(:post, "/account/tokens", { name: "job", scopes: scopes }) }
    expect(call(:post, "/account/tokens", { name: "job", scopes: ["all"] })["detail"]).to include("must be some of read, write, administer")
    expect(call(:get, "/account").to_json).not_to include(reading["token"])
    sign_out
    audience = { name: "x", definition: { "all" => [] } }
    asked = lambda do |token, method, path, body = nil|
      header("Authorization", "Bearer #{token}")
      status(method, path, body)
    end
    expect([asked.call(reading["token"], :get, "/people"), asked.call(reading["token"], :post, "/audiences", audience), asked.call(reading["token"], :get, "/live-events")]).to eq([200, 403, 403])
    expect(asked.call(writing["token"], :post, "/audiences", audience)).to eq(201)
    expect(asked.call(administering["token"], :get, "/accounts")).to eq(403)
    sign_in("analyst")
    header("Authorization", nil)
    call(:delete, "/account/tokens/#{writing["id"]}")
    expect(asked.call(writing["token"], :get, "/people")).to eq(401)
    expect(asked.call("et_nonsense", :get, "/people")).to eq(401)
  end

  it "logs exports, erasures, sign-ins and changes of rights, for good" do
    fill
    sign_in
    everybody = call(:post, "/audiences", { name: "Everybody", definition: { "all" => [] } })
    export = call(:post, "/exports", { name: "All", audience_id: everybody["id"], as_of: "2026-05-20", rules: { columns: [{ take: "state" }] } })
    run = call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    work_off
    call(:get, "/runs/#{run["id"]}/file")
    call(:post, "/people/1/erase", { confirm: "erase this person", reason: "asked to" })
    made = call(:post, "/accounts", { email: "bo@estrel.example", role: "analyst" })
    call(:put, "/accounts/#{made["id"]}", { role: "viewer" })
    expect(call(:put, "/accounts/#{EstrelServer::Account.find_by(role: "administrator").id}", { role: "viewer" })["detail"]).to eq("You cannot remove the last administrator.")
    done = call(:get, "/log")["entries"].first(6).reject { |row| row["action"] == "exported file deleted" }.map { |row| row.values_at("who", "action", "about") }
    expect(done.map { |row| row[1] }).to eq(["role changed", "account created", "person erased", "export downloaded", "export started"])
    expect(done.last).to eq(["administrator@estrel.example", "export started", "POST /exports/#{export["id"]}/runs"])
    expect(call(:get, "/log.csv").lines.size).to be > 5
    [-> { EstrelServer::AuditEntry.last.update!(who: "nobody") }, -> { EstrelServer::AuditEntry.last.delete }].each { |change| expect(&change).to raise_error(ActiveRecord::StatementInvalid, /only added to/) }
  end
end
