# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Workspaces do
  include ApiHelper

  def place = described_class.place("shop")

  let(:keeper) { EstrelServer::Workspaces::Keeper.new }

  # As the background does, in this process.
  def make(name = "shop", role: "administrator")
    account
    row = EstrelServer::InstalledWorkspace.create!(name: name, state: "open", made_by: "spec")
    row.memberships.create!(account: account, role: role) if role
    described_class.within(row.place) do
      EstrelServer::Database::Store.migrate
      EstrelServer::LedgerBuilding::Builder.new.refresh
    end
    EstrelServer::InstalledWorkspace.forget
    row
  end

  def in_shop(&) = described_class.within(place, &)

  def until_done(row)
    300.times do
      keeper.step
      break if yield(row.reload)

      sleep 0.2
    end
    row
  rescue ActiveRecord::RecordNotFound
    nil
  end

  def people(base) = at(base) { call(:get, "/people")["total"] }

  def rides(count) = { "all" => [{ "did" => { "event" => "ride_ended", "count" => { "at_least" => count } } }] }

  before { EstrelServer::InstalledWorkspace.destroy_all }

  after do
    EstrelServer::InstalledWorkspace.destroy_all
    described_class.enter(described_class.first)
    EstrelServer::Database::Store.remove(place.settings)
    FileUtils.rm_rf([place.settings.place, place.settings.exchange_directory])
  end

  it "is made and removed with everything in it, in the background" do
    made = call(:post, "/workspaces", { name: "shop", title: "The shop" })
    expect([last_response.status, made["state"], made["base"]]).to eq([201, "being made", "/w/shop"])
    row = until_done(EstrelServer::InstalledWorkspace.find(made["id"])) { |found| found.state == "open" }
    expect([row.state, row.problem]).to eq(["open", nil])
    EstrelServer::InstalledWorkspace.forget
    in_shop { import(event("1")) && refresh }
    expect([people("/w/shop"), people("")]).to eq([1, nil])
    call(:delete, "/workspaces/#{row.id}?name=shop")
    expect(last_response.status).to eq(409)
    call(:put, "/workspaces/#{row.id}", { archived: true })
    at("/w/shop") { call(:get, "/people") }
    expect(last_response.status).to eq(404)
    call(:delete, "/workspaces/#{row.id}?name=other")
    expect(last_response.status).to eq(422)
    call(:delete, "/workspaces/#{row.id}?name=shop")
    stub_const("EstrelServer::Workspaces::Keeper::ENDING", 0)
    expect(until_done(row) { false }).to be_nil
    expect(EstrelServer::Record.connection.select_values("SHOW DATABASES")).not_to include("estrel_shop")
    expect(File.exist?(place.settings.place)).to be(false)
  end

  it "keeps each workspace's people, audiences, settings and log apart" do
    fill
    make
    in_shop { import(event("1", subject: "customer:9")) && refresh }
    call(:post, "/audiences", { name: "Here", definition: rides(2) })
    at("/w/shop") { call(:post, "/audiences", { name: "There", definition: rides(1) }) }
    before = call(:get, "/log")["entries"].count { |entry| entry["action"] == "settings changed" }
    at("/w/shop") { call(:put, "/workspace", { time_zone: "Asia/Tokyo" }) }
    names = ["", "/w/shop"].map { |base| at(base) { call(:get, "/audiences")["audiences"].map { |row| [row["name"], row["size"]] } } }
    expect(names).to eq([[["Here", 6]], [["There", 1]]])
    zones = ["", "/w/shop"].map { |base| at(base) { call(:get, "/workspace")["time_zone"] } }
    expect(zones).to eq(["Europe/Lisbon", "Asia/Tokyo"])
    expect(in_shop { EstrelServer::Audience.pick(:owner_id) }).to eq(account.id)
    changed = ["", "/w/shop"].map { |base| at(base) { call(:get, "/log")["entries"].count { |entry| entry["action"] == "settings changed" } } }
    expect(changed).to eq([before, 1])
    call(:post, "/workspace/clear", { confirm: "remove all data" })
    expect([people(""), people("/w/shop")]).to eq([0, 1])
  end

  it "waits for another process that brings the same tables up to date" do
    database = EstrelServer::Database.new(EstrelServer.settings)
    other = database.client(database.owner_connection)
    number = ActiveRecord::Migrator.const_get(:MIGRATOR_SALT) * Zlib.crc32(database.schema)
    expect(other.query("SELECT GET_LOCK('#{number}', 0)").to_a.flatten).to eq([1])
    # Which it replaces: it would wait for ours.
    EstrelServer::Record.connection_pool.release_connection
    done = Thread.new { EstrelServer::Database::Store.migrate }
    expect(done.join(0.5)).to be_nil
    other.close
    expect { done.value }.not_to raise_error
  end

  it "has a role of its own for every account" do
    make(role: nil)
    at("/w/shop") { call(:get, "/people") }
    expect([last_response.status, JSON.parse(last_response.body)["detail"]]).to eq([403, "You do not have access to this workspace; ask one of its administrators."])
    row = EstrelServer::InstalledWorkspace.first
    row.memberships.create!(account: account, role: "viewer")
    session = at("/w/shop") { call(:get, "/session") }["account"]
    expect([session["role"], session["workspaces"].map { |one| [one["name"], one["role"], one["here"]] }]).to eq(["viewer", [["main", "administrator", false], ["shop", "viewer", true]]])
    at("/w/shop") { call(:post, "/audiences", { name: "No", definition: rides(1) }) }
    expect(last_response.status).to eq(403)
  end

  # The administrator of the shop, who sets the password of an address that is somebody else's.
  def taken_over(email)
    row = make(role: nil)
    row.memberships.create!(account: sign_in("viewer", email: "clerk@estrel.example"), role: "administrator")
    link = at("/w/shop") { call(:post, "/accounts", { email: email, role: "analyst" })["link"] }
    account = EstrelServer::OneTimeLink.use(link[%r{[^/]+\z}], email: nil, password: "the clerk knows this") { nil }
    account.passkeys.create!(external_id: "x", public_key: "x", name: "x", created_at: Time.now.utc)
    [account, EstrelServer::AccountSession.open(account), in_shop { EstrelServer::ApiToken.issue(account, "x", ["read"]).last }]
  end

  def ways_in(account)
    account.reload
    [account.password_digest, account.passkeys.count, account.account_sessions.count, account.api_tokens.usable.count, account.one_time_links.count]
  end

  it "gives no account that another workspace set up a role in the first one, as long as its earlier ways in are left" do
    taken, = taken_over("ada@estrel.example")
    expect(EstrelServer::Account.signing_in("ada@estrel.example", "the clerk knows this")).to eq(taken)
    sign_in
    call(:put, "/accounts/#{taken.id}", { role: "administrator" })
    expect([last_response.status, ways_in(taken), taken.roles.keys]).to eq([200, [nil, 0, 0, 0, 0], %w[main shop]])
    key = call(:post, "/accounts/#{taken.id}/link")["link"][%r{[^/]+\z}]
    EstrelServer::OneTimeLink.use(key, email: nil, password: "only Ada knows this") { nil }
    expect(taken.reload.confirmed).to be(true)
    # From now on the address is Ada's, also for the shop.
    at("/w/shop") { sign_in("viewer", email: "clerk@estrel.example") }
    number = at("/w/shop") { call(:get, "/accounts")["accounts"].find { |one| one["email"] == taken.email }["id"] }
    at("/w/shop") { call(:put, "/accounts/#{number}", { role: "none" }) }
    link = at("/w/shop") { call(:post, "/accounts", { email: taken.email, role: "analyst" })["link"] }
    expect { EstrelServer::OneTimeLink.use(link[%r{[^/]+\z}], email: nil, password: "the clerk knows this") { nil } }.to raise_error(/has an account already/)
    expect(EstrelServer::Account.signing_in(taken.email, "only Ada knows this")).to eq(taken)
  end

  it "keeps an administrator where two are demoted at the same moment" do
    row = make(role: nil)
    clerks = %w[a b].map { |name| EstrelServer::Account.create!(email: "#{name}@estrel.example", role: "administrator").tap { |one| row.memberships.create!(account: one, role: "administrator") } }
    EstrelServer::Account.where.not(id: clerks).update_all(role: "viewer")
    { "" => -> { EstrelServer::Account.administrators_here }, "/w/shop" => -> { in_shop { EstrelServer::Account.administrators_here } } }.each do |base, left|
      numbers = base.empty? ? clerks.map(&:id) : clerks.map { |clerk| row.memberships.find_by(account: clerk).id }
      held = Thread::Queue.new
      allow(EstrelServer::Account).to(receive(:lock_roles_here).and_wrap_original { |original| held.pop && original.call })
      threads = clerks.zip(numbers.reverse).map do |clerk, number|
        Thread.new { raw("PUT", "#{base}/accounts/#{number}", "application/json", '{"role":"viewer"}', HTTP_COOKIE: "estrel_session=#{EstrelServer::AccountSession.open(clerk)}", HTTP_ORIGIN: "http://127.0.0.1:4270").first }
      end
      sleep(0.01) until held.num_waiting == 2 # both were administrators when they asked
      2.times { held << true }
      expect(threads.map(&:value)).to contain_exactly(200, 409)
      expect(left.call.size).to eq(1)
    end
  end

  it "lets administrators of a workspace let people into it, and no more than that" do
    boss = sign_in
    row = make(role: nil)
    clerk = sign_in("viewer", email: "clerk@estrel.example")
    row.memberships.create!(account: clerk, role: "administrator")
    at("/w/shop") do
      added = call(:post, "/accounts", { email: "New@Shop.example", role: "analyst" })
      expect([added["email"], added["role"], added["link"]]).to match(["new@shop.example", "analyst", %r{/link/}])
      known = call(:post, "/accounts", { email: boss.email, role: "viewer" })
      expect(known.keys).to eq(added.keys)
      expect(known).to include("link" => %r{/link/}, "set_up" => nil, "second_factor" => nil, "id" => added["id"] + 1)
      expect { EstrelServer::OneTimeLink.use(known["link"][%r{[^/]+\z}], email: nil, password: "another long password") { nil } }.to raise_error(/has an account already/)
      expect(call(:post, "/accounts", { email: boss.email, role: "viewer" })["status"]).to eq(409)
      expect(call(:get, "/accounts")["accounts"].map { |account| [account["email"], account["role"]] }).to eq([["administrator@estrel.example", "viewer"], ["clerk@estrel.example", "administrator"], ["new@shop.example", "analyst"]])
      tried = [[:put, "", { disabled: true }], [:post, "/link", nil], [:delete, "/second-factor", nil]].map { |verb, path, body| call(verb, "/accounts/#{known["id"]}#{path}", body) && last_response.status }
      expect(tried).to eq([403, 403, 403])
      call(:put, "/accounts/#{row.memberships.find_by(account: clerk).id}", { role: "viewer" })
      expect(last_response.status).to eq(409)
      call(:put, "/accounts/#{known["id"]}", { role: "none" })
      call(:get, "/workspaces")
      expect(last_response.status).to eq(404)
    end
    expect(EstrelServer::Account.find_by(email: "new@shop.example").roles).to eq("shop" => "analyst")
    expect([boss.reload.role, boss.roles]).to eq(["administrator", { "main" => "administrator" }])
    call(:get, "/workspaces")
    expect(last_response.status).to eq(403)
  end

  it "is chosen by a token too, which is good nowhere else" do
    make
    token = in_shop { EstrelServer::ApiToken.issue(account, "program", %w[read]).last }
    main = EstrelServer::ApiToken.issue(account, "program", %w[read]).last
    in_shop { import(event("1")) && refresh }
    sign_out
    asked = lambda do |base, key|
      at(base) { call(:get, "/people", nil, authorization: "Bearer #{key}").then { |body| [last_response.status, body["total"]] } }
    end
    expect([asked.call("", token), asked.call("/w/shop", token), asked.call("", main)]).to eq([[200, 1], [200, 1], [409, nil]])
    forged = [asked.call("/w/shop", main), asked.call("", main.sub("et_", "et_shop.")), asked.call("", token.sub("shop.", ""))]
    expect(forged.map(&:first)).to eq([401, 401, 401])
  end

  it "takes events by the key of a source" do
    make
    key = in_shop { EstrelServer::SendingKey.issue(EstrelServer::Source.create!(name: "till")).last }
    collector = Rack::MockRequest.new(EstrelServer::Workspaces::Chooser.new(EstrelServer::Collecting::Application))
    sent = lambda do |bearer|
      body = JSON.generate([{ "specversion" => "1.0", "id" => "1", "source" => "till", "type" => "sale", "subject" => "customer:1", "time" => "2026-05-03T10:00:00Z" }])
      collector.post("/events", "HTTP_AUTHORIZATION" => "Bearer #{bearer}", "CONTENT_TYPE" => "application/cloudevents-batch+json", input: body).status
    end
    expect([sent.call(key), sent.call(key.sub("shop.", "")), sent.call(key.sub("shop", "none"))]).to eq([200, 401, 401])
    expect([EstrelServer::Event.count, in_shop { EstrelServer::Event.count }]).to eq([0, 1])
  end

  it "keeps nothing of one that was removed for another of its name" do
    first = make
    collector = Rack::MockRequest.new(EstrelServer::Workspaces::Chooser.new(EstrelServer::Collecting::Application))
    send_one = lambda do
      key = in_shop { EstrelServer::SendingKey.issue(EstrelServer::Source.create!(name: "till")).last }
      event = { "specversion" => "1.0", "id" => "1", "source" => "till", "type" => "sale", "subject" => "customer:1", "time" => "2026-05-03T10:00:00Z" }
      collector.post("/events", "HTTP_AUTHORIZATION" => "Bearer #{key}", "CONTENT_TYPE" => "application/cloudevents-batch+json", input: JSON.generate([event])).body
      in_shop { EstrelServer::Event.joins(:profile).count }
    end
    before = place
    token = in_shop { EstrelServer::ApiToken.issue(account, "program", %w[read]).last }
    expect(send_one.call).to eq(1)
    first.update!(state: "being removed")
    stub_const("EstrelServer::Workspaces::Keeper::ENDING", 0)
    keeper.step
    make
    expect([send_one.call, before.equal?(place)]).to eq([1, false])
    sign_out
    at("/w/shop") { call(:get, "/people", nil, authorization: "Bearer #{token}") }
    expect(last_response.status).to eq(401)
  end

  it "copies what is shared in another workspace, and nobody's data" do
    fill
    base = call(:post, "/audiences", { name: "Base", definition: rides(2) })
    call(:post, "/audiences", { name: "Of it", definition: { "all" => [{ "audience" => { "id" => base["id"] } }] } })
    make
    copied = at("/w/shop") do
      checked = call(:post, "/workspace/definitions", { from: "main", check: true })["definitions"]
      expect([checked.map { |one| one["what"] }.uniq, call(:get, "/audiences")["audiences"]]).to eq([["new"], []])
      call(:post, "/workspace/definitions", { from: "main" })["definitions"]
    end
    expect(copied.map { |one| one.values_at("kind", "name", "what") }).to include(%w[audience Base new], ["audience", "Of it", "new"])
    in_shop { import([event("1", subject: "customer:9"), event("2", subject: "customer:9")].join("\n")) && refresh }
    at("/w/shop") do
      expect(call(:get, "/audiences")["audiences"].map { |row| [row["name"], row["size"]] }).to contain_exactly(["Base", 1], ["Of it", 1])
      expect(call(:post, "/workspace/definitions", { from: "main" })["definitions"].map { |one| one["what"] }.uniq).to eq(["same"])
    end
    call(:post, "/workspace/definitions", { from: "elsewhere" })
    expect(last_response.status).to eq(422)
  end

  it "refuses names that are none, and addresses of nothing" do
    names = ["main", "Shop", "s", "a_b", "../etc", "a" * 31, "shop\n"].map { |name| call(:post, "/workspaces", { name: name }) && last_response.status }
    expect(names.uniq).to eq([422])
    row = EstrelServer::InstalledWorkspace.new(name: "shop", title: "shop", state: "being made", made_by: "spec").tap { |one| one.save!(validate: false) }
    allow(EstrelServer::InstalledWorkspace).to receive(:create!) { row.dup.save!(validate: false) }
    call(:post, "/workspaces", { name: "shop" })
    expect(last_response.status).to eq(409)
    call(:put, "/workspaces/#{row.id}", { archived: true })
    expect(last_response.status).to eq(409)
    statuses = ["/w/none/api/session", "/w/none/", "/w/none", "/w//api/session", "/w/main/api/session"].map { |path| get(path) && last_response.status }
    expect(statuses.uniq).to eq([404])
    expect { described_class.place("../x") }.to raise_error(EstrelServer::Settings::Invalid)
  end
end
