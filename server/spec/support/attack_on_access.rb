# frozen_string_literal: true

require "net/http"
require "webauthn/fake_client"

# Attacks of an {Attack} on who may do what: passkeys, accounts of other workspaces, demotions, live feeds.
module AttackOnAccess
  PASSWORD = "the clerk knows this"

  private

  # A challenge of signing in is no permission to add a passkey, and an answer signs in once.
  def passkey_challenges
    account = person("passkeys", "analyst")
    session = session_of(account)
    device = WebAuthn::FakeClient.new(stack.settings.public_url, encoding: :base64url)
    stolen = browser("/session/passkey/begin")
    statuses = [browser("/account/passkeys", created(device, stolen), session, challenge_of(stolen)).code]
    mine = browser("/account/passkeys/begin", { password: "" }, session)
    browser("/account/passkeys", created(device, mine), session, challenge_of(mine))
    asked = browser("/session/passkey/begin")
    answer = { credential: device.get(challenge: challenge_in(asked), user_verified: true, allow_credentials: account.passkeys.pluck(:external_id)) }
    statuses += Array.new(2) { browser("/session/passkey", answer, challenge_of(asked)).code }
    [3, statuses == %w[422 200 401] ? [] : ["statuses of the foreign challenge, the answer, and the answer again: #{statuses.join(", ")}"]]
  end

  # The administrator of another workspace gets no way in to this one, also by commands while it is made.
  def accounts_from_elsewhere
    session = session_of(person("owner", "administrator"))
    made = browser("/workspaces", { name: "shop" }, session)
    commands = Array.new(3) { Thread.new { stack.estrel("workspaces", "list") } }
    open = @estrel.wait(60) { browser("/workspace", nil, session, base: "/w/shop").code == "200" }
    commands.each(&:join)
    return [1, ["the workspace was not made: #{made.code} #{made.body[0, 200]}"]] unless open

    link = JSON.parse(browser("/accounts", { email: "victim@estrel.example", role: "administrator" }, session, base: "/w/shop").body)["link"]
    entered = browser("/session/link", { key: link[%r{[^/]+\z}], password: PASSWORD }, base: "/w/shop")
    clerk = entered["set-cookie"][/estrel_session=[^;]+/]
    victim = EstrelServer::Account.find_by!(email: "victim@estrel.example")
    added = browser("/accounts/#{victim.id}", { role: "administrator" }, session, verb: "put")
    return [1, ["the role was not given: #{added.body[0, 200]}"]] unless added.code == "200"

    tried = [browser("/workspace", nil, clerk), browser("/accounts", nil, clerk), browser("/session", { email: "victim@estrel.example", password: PASSWORD })]
    [3, tried.reject { |answer| answer.code == "401" }.map { |answer| "#{answer.uri}: #{answer.code}" }]
  end

  # Two administrators demote each other at the same moment.
  def demotions
    others = EstrelServer::Account.where(role: "administrator").pluck(:id)
    pair = %w[one two].map { |name| person(name, "administrator") }
    EstrelServer::Account.where(id: others).update_all(role: "viewer")
    gave_way = Array.new(20) do |number|
      EstrelServer::Account.where(id: pair).update_all(role: "administrator")
      pair.zip(pair.reverse).map { |one, other| Thread.new(session_of(one)) { |session| browser("/accounts/#{other.id}", { role: "viewer" }, session, verb: "put") } }.each(&:join)
      "no administrator was left in round #{number}" if EstrelServer::Account.where(role: "administrator").none?
    end
    [20, gave_way.compact]
  ensure
    EstrelServer::Account.where(id: others).update_all(role: "administrator")
  end

  # Spellings of the example page's address, destinations inside the network, and messages between machines again.
  def odd_addresses
    policies = %w[/sender/%2e%2e/index.html /sender/..%2findex.html].map { |path| raw("GET #{path} HTTP/1.1")[/^content-security-policy:.*/i].to_s }
    gave_way = policies.grep(/connect-src 'self' http/).map { |policy| "the example's policy: #{policy}" }
    inside = %w[127.0.0.1 [::1] [::7f00:1] [::ffff:127.0.0.1] 169.254.169.254 [64:ff9b::7f00:1] [fd00::1]].map { |host| "https://#{host}/" }
    guard = EstrelServer::Pushing::AddressGuard.new(stack.settings)
    gave_way += inside.reject { |url| refused?(EstrelServer::Pushing::AddressGuard::Refused) { guard.target(url) } }
    seal = EstrelServer::Parts::Seal.new(stack.settings)
    message = seal.close("answer", "bytes")
    read = Array.new(2) { seal.open("answer", message) }
    [inside.size + 4, gave_way + (read == ["bytes", nil] ? [] : ["a sealed message read twice: #{read}"])]
  end

  def refused?(kind)
    yield
    false
  rescue kind
    true
  end

  def raw(line)
    socket = TCPSocket.new("127.0.0.1", stack.settings.port)
    socket.write("#{line}\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n")
    socket.read
  ensure
    socket&.close
  end

  # What is watched ends with the account.
  def live_feeds
    watcher = person("watcher", "analyst")
    session = session_of(watcher)
    sockets = Array.new(6) do
      TCPSocket.new("127.0.0.1", stack.settings.port).tap { |socket| socket.write("GET /api/live-events/live HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: #{session}\r\n\r\n") }
    end
    begun = sockets.map { |socket| socket.wait_readable(5) && socket.readpartial(65_536)[/ (\d{3})/, 1] }
    displaced = sockets.count { |socket| ended?(socket, 2) }
    watcher.update!(disabled_at: Time.now.utc)
    ended = sockets.map { |socket| ended?(socket) }
    limited = begun.count("200") == 6 && displaced == 1
    [6, [limited ? nil : "#{begun.tally} feeds of one account, #{displaced} closed", ended.all? ? nil : "#{ended.count(false)} feeds outlived their account"].compact]
  ensure
    sockets&.each(&:close)
  end

  def ended?(socket, seconds = 15)
    deadline = now + seconds
    while now < deadline
      next unless socket.wait_readable(0.5)
      return true if socket.read_nonblock(65_536, exception: false).nil?
    end
    false
  rescue SystemCallError
    true
  end

  def person(name, role) = EstrelServer::Account.create!(email: "#{name}@estrel.example", role: role)

  def session_of(account) = "estrel_session=#{EstrelServer::AccountSession.open(account)}"

  # A request as a browser sends it.
  def browser(path, json = {}, *cookies, base: "", verb: json ? "post" : "get")
    uri = URI("#{stack.web}#{base}/api#{path}")
    request = Net::HTTP.const_get(verb.capitalize).new(uri, "cookie" => cookies.join("; "), "content-type" => "application/json")
    request.body = JSON.generate(json) if json
    Net::HTTP.start(uri.host, uri.port) { |http| http.request(request) }
  end

  def challenge_in(answer) = JSON.parse(answer.body)["options"]["challenge"]

  def challenge_of(answer) = answer["set-cookie"][/estrel_passkey=[^;]+/]

  def created(device, answer) = { credential: device.create(challenge: challenge_in(answer), user_verified: true), name: "Stolen" }
end
