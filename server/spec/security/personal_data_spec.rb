# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe EstrelServer::Access::PersonalData do
  include ApiHelper

  # What must never reach a viewer, each in another place where it could stand.
  let(:planted) do
    { identifier: "zq-customer-77", email: "zq.mail@post.example", attribute: "Zqanna Zqberg", content: "call +351 912 345 678 zq", iban: "DE44 5001 0517 5407 3249 31",
      evidence: "zq signed at the kiosk", marked: "zq-quiet-word", reason: "zq refused" }
  end
  let(:marker) { /zq|351 912|DE44 5001/i }

  def send_all
    EstrelServer::Workspace.current.update!(time_zone: "UTC")
    fact = ->(id, type, data) { event(id, type: type, subject: "customer:#{planted[:identifier]}", time: "2026-05-02T10:00:00Z", data: data) }
    import([event("1", subject: "customer:#{planted[:identifier]}", data: { "km" => 3, "remark" => planted[:content], "account" => planted[:iban], "mood" => planted[:marked], "plan" => "monthly" }),
            event("2", subject: "customer:other", data: { "km" => 4, "mood" => "fine", "plan" => "daily" }),
            event("3", subject: "visitor:zq-device-1", data: { "km" => 1 }), fact.call("4", "estrel.attributes", { "full_name" => planted[:attribute], "tariff" => "gold", "nickname" => planted[:marked] }),
            fact.call("5", "estrel.link", { "same_as" => "email:#{planted[:email]}" }), fact.call("6", "estrel.link", { "same_as" => "visitor:zq-device-1" }),
            fact.call("7", "estrel.consent", { "channel" => "email", "given" => true, "evidence" => planted[:evidence] })].join("\n"))
    refresh
  end

  def mark(model, name, personal) = call(:put, "/catalogue/#{model}/#{(model == "attributes" ? EstrelServer::AttributeDefinition : EstrelServer::EventProperty).find_by!(name: name).id}", { personal: personal })

  it "is suggested by name and content, and decided by people" do
    send_all
    expect(EstrelServer::AttributeDefinition.personal.pluck(:name)).to eq(["full_name"])
    expect(EstrelServer::EventProperty.personal.pluck(:name)).to contain_exactly("remark", "account")
    names = ["name", "firstName", "Full Name", "e-mail", "contact_phone", "iban", "user_name", "plan_name", "station", "km", "quarter", "campaign", "filename"]
    expect(names.select { |name| described_class.name?(name) }).to eq(names.first(7))
    expect(mark("properties", "account", false)).to include("personal" => false, "personal_said" => false)
    expect(mark("properties", "account", nil)).to include("personal" => true, "personal_said" => nil)
    expect(call(:get, "/log")["entries"].map { |row| row["action"] }).to include("catalogue changed")
  end

  it "reaches no viewer by any operation, and no viewer's question can be about it" do
    send_all
    mark("properties", "mood", true)
    mark("attributes", "nickname", true)
    audience = call(:post, "/audiences", { name: "In a mood", definition: { "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 }, "window" => { "last_days" => 30 }, "where" => [{ "property" => "mood", "compare" => "is", "value" => planted[:marked] }] } } })
    export = call(:post, "/exports", { name: "To them", audience_id: audience["id"], as_of: "2026-05-20", rules: { columns: [{ take: "identifier:customer" }] } })
    run = call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" })
    work_off
    call(:post, "/rule-sets", { name: "Moody", new_for: 1, active_within: 2, churned_after: 3, activity: [{ event: "ride_ended", where: [{ property: "mood", compare: "is", value: planted[:marked] }] }] })
    person = EstrelServer::Identifier.find_by!(value: planted[:identifier]).profile_id
    everybody = { "all" => [] }
    plain = %w[One Other].map { |name| call(:post, "/audiences", { name: name, definition: everybody })["id"] }
    asked = { "definition" => everybody, "as_of" => "2026-05-20", "person" => person, "from" => "2026-05-01", "audiences" => plain, "by" => { "state" => true }, "activity" => ["ride_ended"], "run" => run["id"], "audience" => plain[0], "people" => 100, "share" => 0.1,
              "tried" => { "activity" => ["ride_ended"], "new_for" => 1, "active_within" => 2, "churned_after" => 3 },
              "metric" => { "event" => "ride_ended" }, "series" => [{ "event" => "ride_ended" }], "event" => { "event" => "ride_ended" }, "start" => { "event" => "ride_ended" }, "return" => { "event" => "ride_ended" },
              "steps" => [{ "event" => "ride_ended" }] * 2, "value" => { "event" => "ride_ended", "measure" => "times" }, "before" => 3, "after" => 3, "date" => "2026-05-10", "new_for" => 1, "active_within" => 2, "churned_after" => 3 }
    calls = ApiHelper::DESCRIPTION["paths"].flat_map do |path, item|
      next [] if path.start_with?("/session", "/workspace/clear")

      where = path.sub("/runs/{id}", "/runs/#{run["id"]}").sub("/exports/{id}", "/exports/#{export["id"]}").sub("/audiences/{id}", "/audiences/#{audience["id"]}")
      where = where.sub("/{audience}", "/#{audience["id"]}").gsub(/\{\w+\}/, person.to_s)
      (item.keys & %w[get post]).map do |verb|
        [verb, if path.include?("/people") && path.include?("runs")
                 "#{where}?step=exported"
               else
                 where
               end]
      end
    end
    sign_in("viewer")
    shown = calls.to_h { |verb, path| ["#{verb} #{path}", raw(verb, path, "application/json", JSON.generate(body(asked, path)))] }
    expect(shown.slice(*Estrel::Analyses.all.map { |analysis| "post /analyses/#{analysis.address}" }).reject { |_, (status, _)| status == 200 }).to eq({})
    shown["backtest of other rules"] = raw(:post, "/analyses/backtest", "application/json", JSON.generate(active_within: 5, churned_after: 9, as_of: "2026-05-20"))
    expect(shown.select { |_, (_, body)| body.match?(marker) }.keys).to eq([])
    expect(shown.count { |_, (status, _)| status == 200 }).to be > 40
    expect(call(:get, "/people/#{person}/events")["rows"].find { |row| row["properties"]["km"] == 3 }["properties"]).to include("plan" => "monthly", "mood" => "•••", "remark" => "•••")
    expect(call(:get, "/people/#{person}")["attributes"].to_h { |row| row.values_at("name", "value") }).to eq({ "full_name" => "•••", "nickname" => "•••", "tariff" => "gold" })
    viewers_cannot_ask_about_it
    viewers_see_only_the_rest(audience)
    sign_in
    expect(calls.count { |verb, path| raw(verb, path, "application/json", JSON.generate(body(asked, path))).last.match?(marker) }).to be > 8
  end

  # Of what is asked, what an analysis takes. What it is about is something else where a chance is asked for.
  def body(asked, path)
    analysis = Estrel::Analyses.named(path.delete_prefix("/analyses/")) or return asked
    asked = asked.merge("of" => asked["event"]) unless path == "/analyses/chance"
    asked.slice(*analysis.schema.components.fetch(analysis.schema.question_name)["properties"].keys)
  end

  def viewers_cannot_ask_about_it
    about = lambda do |field, kind|
      condition = { kind => field, "compare" => "starts_with", "value" => "z" }
      definition = kind == "name" ? { "attribute" => condition } : { "did" => { "event" => "ride_ended", "count" => { "at_least" => 1 }, "window" => { "last_days" => 30 }, "where" => [condition] } }
      call(:post, "/audiences/preview", { definition: definition, as_of: "2026-05-20" }) && last_response.status
    end
    expect([about.call("full_name", "name"), about.call("remark", "property"), about.call("tariff", "name"), about.call("plan", "property")]).to eq([422, 422, 200, 200])
    split = [{ attribute: "nickname" }, { property: { event: "ride_ended", of: "mood", take: "last" } }].map { |by| analyse("breakdown", audiences: [], by: by, as_of: "2026-05-20") && last_response.status }
    expect(split).to eq([422, 422])
    series = [{ event: "ride_ended" }]
    moody = { event: "ride_ended", where: [{ property: "mood", compare: "is", value: "x" }] }
    events = [["trends", { series: series, by: { attribute: "nickname" } }], ["trends", { series: series, by_event: "mood" }], ["trends", { series: [moody] }],
              ["trends", { series: series, measure: "distinct", property: "remark" }], ["frequency", { series: [moody] }], ["next-events", { event: moody }],
              ["trends", { series: series, by: { attribute: "nickname", as_of: true } }], ["trends", { series: [{ event: "ride_ended", where: [{ attribute: "nickname", compare: "is_set" }] }] }],
              ["next-events", { event: series[0], who: { did: moody } }], ["retention", { start: moody, return: series[0] }], ["funnel", { steps: [*series, moody] }], ["cohort-value", { start: series[0], value: moody.merge(measure: "times") }], ["change", { of: moody, step: "day" }]]
    expect(events.map { |name, question| analyse(name, as_of: "2026-05-20", **question) && last_response.status }.uniq).to eq([422])
    rules = { activity: [{ event: "ride_ended", where: [{ property: "mood", compare: "is", value: "x" }] }], new_for: 1, active_within: 2, churned_after: 3 }
    expect(analyse("rules-effect", tried: rules) && last_response.status).to eq(422)
    expect(call(:post, "/audiences/preview", { definition: { "lifecycle" => { "is" => ["new"], "rule_set" => { "rules" => rules } } }, as_of: "2026-05-20" }) && last_response.status).to eq(422)
  end

  def viewers_see_only_the_rest(audience)
    expect(call(:get, "/catalogue").to_json).not_to match(/remark|mood|nickname|full_name/)
    expect(call(:get, "/audiences")["audiences"].find { |row| row["id"] == audience["id"] }).to include("size" => nil, "sentence" => EstrelServer::Access::Disclosure::HIDDEN)
    expect(call(:get, "/audiences/#{audience["id"]}") && last_response.status).to eq(403)
    reader = EstrelServer::ApiToken.issue(EstrelServer::Account.create!(email: "a@estrel.example", role: "administrator"), "reader", ["read"]).last
    expect(raw("GET", "/people", HTTP_COOKIE: "", HTTP_AUTHORIZATION: "Bearer #{reader}").last).not_to match(marker)
  end

  it "costs no more than its size, however it is made" do
    import(event("1", data: { "note" => "#{"a@" * 60_000}b", "quiet" => "x" * 120_000 }))
    refresh
    sign_in("viewer")
    before = Process.clock_gettime(Process::CLOCK_PROCESS_CPUTIME_ID)
    call(:get, "/people/#{EstrelServer::Profile.first.id}/events")
    call(:post, "/audiences/preview", { definition: { "all" => [{ "attribute" => { "name" => "a@" * 120_000, "compare" => "is", "value" => "x" } }] } })
    expect(Process.clock_gettime(Process::CLOCK_PROCESS_CPUTIME_ID) - before).to be < 2
  end
end
