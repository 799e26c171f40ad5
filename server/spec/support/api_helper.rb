# frozen_string_literal: true

require "rack/test"
require "yaml"

# Sends requests to the whole application and checks every answer against the published description.
module ApiHelper
  include Rack::Test::Methods

  DESCRIPTION = EstrelServer::API::Description.document
  SCHEMA = JSONSchemer.openapi(DESCRIPTION)

  def app = @app ||= EstrelServer::Application.build

  # A request as it comes over the network: the address is not read, let alone mended, by the client.
  #
  # @return [Array(Integer, String)] status and body
  def raw(verb, address, type = nil, body = nil, **headers)
    path, query = address.split("?", 2)
    env = Rack::MockRequest.env_for("/", method: verb.upcase, input: body.to_s, "REMOTE_ADDR" => "127.0.0.1", "HTTP_HOST" => "127.0.0.1:4270",
                                         "HTTP_COOKIE" => session_cookie, **headers.transform_keys(&:to_s))
    base = path[%r{\A/w/[^/]+}]
    env["PATH_INFO"] = "#{base}/api#{path.delete_prefix(base.to_s)}"
    env["QUERY_STRING"] = query.to_s
    env["CONTENT_TYPE"] = type if type
    status, _, parts = app.call(env)
    text = +""
    parts.each { |part| text << part }
    parts.close if parts.respond_to?(:close)
    [status, text]
  end

  def session_cookie = "estrel_session=#{@session}"

  # Signed in as an administrator, unless the example has seen to it.
  def sign_in(role = "administrator", email: "#{role}@estrel.example")
    account = EstrelServer::Account.find_or_create_by!(email: email) { |row| row.role = role }
    clear_cookies
    @session = EstrelServer::AccountSession.open(account)
    set_cookie("estrel_session=#{@session}")
    @signed_in = account
  end

  # Signed in, seen to by the helper where the example has not.
  def account
    sign_in unless @signed_in
    @signed_in
  end

  # Speaks to another workspace.
  def at(base)
    @base = base
    yield
  ensure
    @base = nil
    EstrelServer::Workspaces.enter(EstrelServer::Workspaces.first)
  end

  def sign_out
    clear_cookies
    @session = nil
    @signed_in = :nobody
  end

  def call(method, path, body = nil, **headers)
    sign_in unless @signed_in
    header("Host", "127.0.0.1:4270")
    headers.each { |name, value| header(name.to_s.tr("_", "-"), value) }
    header("Content-Type", "application/json") if body
    send(method, "#{@base}/api#{path}", body && JSON.generate(body))
    check_against_description(method, path, body)
    last_response.media_type.end_with?("json") ? JSON.parse(last_response.body) : last_response.body
  end

  # Puts a question to an analysis.
  def analyse(name, **question) = call(:post, "/analyses/#{name}", question)

  # What the picture of an analysis is drawn from.
  def picture(...) = analyse(...)["picture"]

  # The documented operation must name this status (or default), this media type, and a schema the body satisfies.
  def check_against_description(method, path, body)
    template, operation = operation(method, path)
    expect(operation).not_to be_nil, "#{method} #{path} is not described"
    check_request(template, method, body) if body && last_response.successful?
    status = operation["responses"].key?(last_response.status.to_s) ? last_response.status.to_s : "default"
    pointer = ["paths", template, method.to_s, "responses", status]
    response = operation["responses"].fetch(status)
    pointer = response["$ref"].delete_prefix("#/").split("/") if response.key?("$ref")
    check_body([*pointer, "content", last_response.media_type, "schema"])
  end

  def operation(method, path)
    plain = path.split("?").first
    DESCRIPTION["paths"].sort_by { |template, _| template.count("{") }.each do |template, operations|
      pattern = Regexp.new("\\A#{template.gsub(/\{\w+\}/, "[^/]+").gsub(".", "\\.")}\\z")
      return [template, operations[method.to_s]] if plain.match?(pattern) && operations[method.to_s]
    end
    nil
  end

  def check_request(template, method, body)
    faults = SCHEMA.ref(ref(["paths", template, method.to_s, "requestBody", "content", "application/json", "schema"])).validate(body)
    expect(faults.map { |fault| fault["error"] }).to eq([])
  end

  def check_body(pointer)
    return unless last_response.media_type.end_with?("json")

    faults = SCHEMA.ref(ref(pointer)).validate(JSON.parse(last_response.body)).first(3)
    expect(faults.map { |fault| fault["error"] }).to eq([]), "#{pointer.join("/")}: #{faults.map { |fault| fault["error"] }} #{last_response.body[0, 500]}"
  end

  def ref(pointer) = "#/#{pointer.map { |part| URI.encode_www_form_component(part.gsub("~", "~0").gsub("/", "~1")) }.join("/")}"

  # Six customers, the n-th of whom rode n + 1 times, every five days from 1 May 2026 on.
  def fill
    EstrelServer::Workspace.current.update!(time_zone: "Europe/Lisbon")
    lines = (1..6).flat_map do |person|
      (0..person).map { |day| event("#{person}-#{day}", subject: "customer:#{person}", time: "2026-05-#{format("%02d", 1 + (day * 5))}T10:00:00Z", data: { "km" => person }) }
    end
    import(lines.join("\n"))
    import("customer,email,plan,time\n1,=cmd@b.example,monthly,2026-05-01\n2,b@b.example,,2026-05-01\n", kind: "profiles",
                                                                                                         mapping: { "time_zone" => "UTC" })
    refresh
  end

  # Everything that is told of audiences, from parts of a ledger put to an asker.
  def told_of_audiences(ledger, asker)
    rules = EstrelServer::Answers::Asking.rule_set(EstrelServer::RuleSet.current.rules_json, ledger.catalogue)
    evaluator = Estrel::Audience::PartByPart.new(ledger, as_of: Date.new(2026, 5, 31), rule_set: rules, parts: 2, asker: asker)
    [{ "did" => { "event" => "ride_ended", "count" => { "at_least" => 3 } } }, { "lifecycle" => { "is" => %w[new dormant] } },
     { "listed" => { "by" => "customer", "values" => %w[1 5 99] } }].map do |condition|
      definition = EstrelServer::Answers::Asking.definition({ "all" => [condition] }, ledger.catalogue)
      of = %i[size members steps undecided state_mix reachable listed].map { |name| [name, definition] }
      JSON.parse(JSON.generate(evaluator.figures(*of, [:base], [:movement, definition, Date.new(2026, 5, 10)], [:moved, definition, Date.new(2026, 5, 10)])
                                        .map { |found| plain(found) }))
    end
  end

  def plain(found)
    case found
    when Polars::Series then found.to_a
    when Hash then found.transform_values { |value| plain(value) }
    else found
    end
  end

  # Does what is queued, as the workers would.
  def work_off
    Delayed::Worker.new(quiet: true).work_off
  end
end
