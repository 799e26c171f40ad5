# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::Access::Rule do
  include ApiHelper

  # Written out here once more, so that a slip in a declaration shows.
  let(:open_to_all) { ["GET /session", "POST /session", "DELETE /session", "POST /session/demo", "POST /session/link", "POST /session/passkey/begin", "POST /session/passkey", "GET /schemas/audience-definition.json"] }
  let(:in_person) do
    ["GET /account", "PUT /account/password", "POST /account/tokens", "DELETE /account/tokens/:id", "DELETE /account/sessions", "DELETE /account/sessions/:id",
     "POST /account/second-factor", "PUT /account/second-factor", "DELETE /account/second-factor", "POST /account/passkeys/begin", "POST /account/passkeys", "DELETE /account/passkeys/:id"]
  end
  let(:administrators_in_person) { ["GET /accounts", "POST /accounts", "PUT /accounts/:id", "POST /accounts/:id/link", "DELETE /accounts/:id/second-factor"] }
  let(:administrators) do
    ["GET /workspaces", "POST /workspaces", "PUT /workspaces/:id", "DELETE /workspaces/:id", "POST /workspace/definitions", "GET /log", "GET /log.csv", "PUT /workspace", "POST /workspace/clear", "POST /workspace/demo", "POST /people/:id/erase", "POST /sources", "PUT /sources/:id", "POST /sources/:id/keys",
     "DELETE /sources/:id/keys/:key", "POST /destinations", "PUT /destinations/:id", "DELETE /destinations/:id", "POST /destinations/:id/try",
     "PUT /campaigns/messaging", "POST /standing-holdouts", "POST /standing-holdouts/:id/end", "DELETE /standing-holdouts/:id"]
  end
  let(:raw_answers) do
    ["GET /live-events", "GET /live-events/live", "GET /imports/:id/rejects.csv", "GET /runs/:id/file", "GET /runs/:id/manifest", "GET /people/:id/everything.json",
     "GET /catalogue/values", "POST /exports/try", "POST /exports/try/people"]
  end
  let(:asked_by_post) do
    ["POST /audiences/preview", "POST /audiences/sample", "POST /audiences/trend", "POST /audiences/movement", "POST /audiences/why",
     "POST /alerts/read", *Estrel::Analyses.all.map { |analysis| "POST /analyses/#{analysis.address}" }]
  end
  let(:rules) { EstrelServer::Application::ENDPOINTS.flat_map { |endpoint| endpoint.rules.to_a }.to_h { |(verb, path), rule| ["#{verb} #{path}", rule] } }
  let(:bearers) do
    people = EstrelServer::Account::ROLES.to_h { |role| [role, EstrelServer::Account.create!(email: "#{role}@estrel.example", role: role)] }
    tokens = EstrelServer::ApiToken::SCOPES.keys.to_h { |scope| ["#{scope} token", EstrelServer::ApiToken.issue(people["administrator"], scope, [scope]).last] }
    { "nobody" => {}, **people.transform_values { |account| { HTTP_COOKIE: "estrel_session=#{EstrelServer::AccountSession.open(account)}" } },
      **tokens.transform_values { |token| { HTTP_COOKIE: "", HTTP_AUTHORIZATION: "Bearer #{token}" } } }
  end

  def logged
    ["POST /exports/:id/runs", "POST /runs/:id/approve", "POST /runs/:id/resume", "POST /runs/:id/retry-refused", "GET /runs/:id/file", "POST /people/:id/erase",
     "GET /people/:id/everything.json", "PUT /accounts/:id", "POST /accounts", "POST /accounts/:id/link", "DELETE /accounts/:id/second-factor", "PUT /account/second-factor", "DELETE /account/second-factor", "PUT /account/password",
     "DELETE /account/sessions", "DELETE /account/sessions/:id", "POST /account/tokens", "POST /account/passkeys", "DELETE /account/passkeys/:id",
     "DELETE /account/tokens/:id", "POST /workspaces", "PUT /workspaces/:id", "DELETE /workspaces/:id", "POST /workspace/definitions", "POST /workspace/clear", "PUT /workspace", "PUT /audiences/:id/sharing", "PUT /rule-sets/:id/sharing", "PUT /exports/:id/sharing"]
  end

  # Viewers may say something, and take it back; a token that only reads may not.
  def said = ["POST /pages/:id/comments", "DELETE /pages/:id/comments/:comment"]

  def role_needed(operation)
    return if open_to_all.include?(operation)
    return "administrator" if (administrators + administrators_in_person).include?(operation)
    return "viewer" if (in_person + asked_by_post + said).include?(operation)
    return "analyst" if raw_answers.include?(operation)

    operation.start_with?("GET") ? "viewer" : "analyst"
  end

  # What the answer has to be: let in, or turned away and how.
  def expected(operation, bearer)
    needed = role_needed(operation) or return :in
    return 401 if bearer == "nobody"

    token = bearer.end_with?(" token")
    return 403 if token && (in_person + administrators_in_person).include?(operation)

    return 403 if bearer == "read token" && said.include?(operation)

    held = token ? EstrelServer::ApiToken::SCOPES.fetch(bearer.delete_suffix(" token")) : bearer
    EstrelServer::Account::ROLES.index(held) >= EstrelServer::Account::ROLES.index(needed) ? :in : 403
  end

  def asked(operation, address = nil, type: "application/json", body: "{}", **bearer)
    verb, path = operation.split(" ", 2)
    raw(verb, address || path.gsub(/:\w+/, "987654321"), type, verb == "GET" ? nil : body, **bearer)
  end

  it "is declared by every route, as the description has it and as is written out here" do
    described = ApiHelper::DESCRIPTION["paths"].flat_map { |path, item| (item.keys & %w[get post put delete]).map { |verb| "#{verb.upcase} #{path.gsub(/\{(\w+)\}/, ':\1')}" } }
    expect(rules.keys).to match_array(described)
    expect(rules.to_h { |operation, rule| [operation, rule.role == "anybody" ? nil : rule.role] }).to eq(rules.keys.to_h { |operation| [operation, role_needed(operation)] })
    expect(rules.select { |_, rule| rule.personal == "raw" }.keys).to match_array(raw_answers)
    expect(logged.map { |operation| rules.fetch(operation).log }).to all(be_a(String))
    expect { Class.new(EstrelServer::API::Endpoint) { get("/people") { nil } } }.to raise_error(ArgumentError, /missing keywords/)
    expect { Class.new(EstrelServer::API::Endpoint) { get("/nowhere", role: "viewer", scope: "read", personal: "none") { nil } } }.to raise_error(ArgumentError, /not described/)
  end

  it "lets in or turns away every kind of asker at every operation" do
    found = rules.keys.flat_map do |operation|
      bearers.filter_map do |name, headers|
        if EstrelServer::Account::ROLES.include?(name)
          headers = { HTTP_COOKIE: "estrel_session=#{EstrelServer::AccountSession.open(EstrelServer::Account.find_by!(role: name))}" }
        end
        status, body = asked(operation, **headers)
        wanted = expected(operation, name)
        right = wanted == :in ? ![401, 403].include?(status) || JSON.parse(body)["detail"].match?(/password|demo/) : status == wanted
        [operation, name, status, wanted] unless right
      end
    end
    expect(found).to eq([])
  end

  it "knows every address in one spelling only, whoever asks" do
    fill
    id = EstrelServer::Profile.first.id
    spellings = { "a sign" => "+#{id}", "a space" => "%20#{id}", "a leading zero" => "0#{id}", "an underscore" => "#{id}_0", "a line end" => "#{id}%0A", "an encoded digit" => "%3#{id.digits.last}",
                  "a fraction" => "#{id}.0", "a parameter" => "#{id};x=1", "a null" => "#{id}%00", "another script" => "%D9%A1", "an exponent" => "1e0", "hexadecimal" => "0x1" }
    in_paths = { "a trailing slash" => ->(path) { "#{path}/" }, "a doubled slash" => ->(path) { path.sub("/", "//") }, "an encoded slash" => ->(path) { path.sub(%r{(?<=\w)/}, "%2f") + (path.count("/") == 1 ? "%2f" : "") },
                 "a dot" => ->(path) { "/.#{path}" }, "dots" => ->(path) { "/x/..#{path}" }, "upper case" => ->(path) { path.sub(/[a-z]/, &:upcase) },
                 "an encoded letter" => ->(path) { path.sub(/[a-z]/) { |letter| "%#{letter.ord.to_s(16)}" } }, "a suffix" => ->(path) { "#{path}.json.json" } }
    wrong = rules.keys.flat_map do |operation|
      path = operation.split.last
      odd = in_paths.transform_values { |change| change.call(path.gsub(/:\w+/, id.to_s)) }
      odd.merge!(spellings.transform_values { |text| path.sub(/:\w+/, text).gsub(/:\w+/, "1") }) if path.include?(":")
      bearers.flat_map do |name, headers|
        odd.filter_map do |what, address|
          [operation, name, what, address] unless asked(operation, address, **headers).first == 404
        end
      end
    end
    expect(wrong).to eq([])
    expect(asked("GET /people/:id", "/people/#{id}", **bearers["viewer"]).first).to eq(200)
    statuses = ["//api/log.csv", "/api//log.csv", "/%61pi/log.csv", "/api/../api/log.csv"].map do |path|
      app.call(Rack::MockRequest.env_for("/", "HTTP_HOST" => "127.0.0.1", **bearers["administrator"].transform_keys(&:to_s)).merge("PATH_INFO" => path)).first
    end
    expect(statuses).to eq([404] * 4)
  end

  it "answers what is not as it should be encoded with 400, and reads nothing from forms" do
    fill
    sign_in
    expect([raw("GET", "/people?search=%ff"), raw("GET", "/people?order=%C3%28"), raw("POST", "/audiences", "application/json", "{\"name\": \"\xff\"}"), raw("POST", "/session", "application/json", "\xff")].map(&:first)).to eq([400] * 4)
    sign_in("viewer")
    answer = JSON.parse(raw("GET", "/people", "application/x-www-form-urlencoded", "search=customer:1").last)
    expect(answer["total"]).to eq(6)
    expect(raw("GET", "/people?search=customer:1").first).to eq(403)
    expect(raw("GET", "/people?page=1&page=2").last).to match(/Page.{2} is given more than once/)
    expect(raw("GET", "/people?page[]=1").last).to include("There is no parameter")
  end
end
