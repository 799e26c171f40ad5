# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::API::AnalysesEndpoint do
  include ApiHelper

  before { fill }

  let(:question) { { as_of: "2026-05-31", from: "2026-05-01", step: "week" } }

  def kept = Dir[File.join(EstrelServer.settings.answers_directory, "*", "*")].grep_v(/\.lock\z/)

  # The events of a stream: name and data.
  def events(text) = text.scan(/^event: (\w+)\ndata: (.*)$/).map { |name, data| [name, JSON.parse(data)] }

  def streamed(name, question) = raw("POST", "/analyses/#{name}", "application/json", JSON.generate(question), HTTP_ACCEPT: "text/event-stream")

  it "lists the analyses with what they may be asked" do
    found = call(:get, "/analyses")
    expect(found["analyses"].map { |row| row["name"] }).to eq(Estrel::Analyses.all.map(&:address))
    found["analyses"].each { |row| expect(row["question"]["properties"].keys).to include("as_of", "received_by", "rule_set") }
    expect(found["schemas"]).to include("Split", "StatesAnswer")
    expect(raw("POST", "/analyses/weather", "application/json", "{}").first).to eq(404)
  end

  it "tells how far it is before it answers, and answers the same either way" do
    sign_in
    status, text = streamed("states", question)
    told = events(text)
    expect([status, told.map(&:first)]).to eq([200, %w[progress answer]])
    expect(told.first.last).to eq({ "done" => 0, "all" => 1, "what" => "Counting" })
    expect(told.last.last).to eq(analyse("states", **question))
    # Kept by now, so there is nothing to tell.
    expect(events(streamed("states", question).last).map(&:first)).to eq(["answer"])
  end

  it "gives a browser the answer to a question in the address once, until it changes" do
    sign_in
    address = "/analyses/states?#{URI.encode_www_form("question" => JSON.generate(question))}"
    get = lambda do |tag = nil|
      accepted = { "HTTP_ACCEPT" => "text/event-stream, application/json", "HTTP_IF_NONE_MATCH" => tag.to_s }
      status, headers, body = app.call(Rack::MockRequest.env_for("/api#{address}", "HTTP_HOST" => "127.0.0.1:4270", "HTTP_COOKIE" => session_cookie, **accepted))
      [status, headers["etag"], headers["cache-control"], body.to_enum.to_a.join]
    end
    first = get.call
    expect([first[1], events(first.last).last]).to eq([nil, ["answer", analyse("states", **question)]])
    status, tag, control, text = get.call
    expect([status, control, JSON.parse(text)]).to eq([200, "private, no-cache", analyse("states", **question)])
    expect(get.call(tag).values_at(0, 3)).to eq([304, ""])
    import(event("late", subject: "customer:9", time: "2026-05-30T10:00:00Z"))
    refresh
    expect(get.call(tag)).to match([200, nil, "no-store", /"people":7/])
    expect(get.call.values_at(0, 1)).to match([200, be_a(String).and(satisfy { |other| other != tag })])
    ["not JSON", "[1]", JSON.generate(as_of: 5)].each do |wrong|
      expect(raw("GET", "/analyses/states?#{URI.encode_www_form("question" => wrong)}").first).to be_between(400, 422), wrong
    end
    expect(raw("GET", "/analyses/states").last).to include("is missing")
  end

  it "gives numbers with twelve digits" do
    shares = JSON.generate(analyse("retention", **question, start: { event: "ride_ended" }, return: { event: "ride_ended" })).scan(/\d\.\d+/)
    expect(shares.map { |text| text.delete(".").sub(/\A0+/, "").size }.max).to be_between(6, 12)
  end

  it "goes part by part and stops between two parts when nobody reads any more" do
    settings = EstrelServer.settings.dup
    allow(settings).to receive(:parts).and_return(3)
    allow(EstrelServer).to receive(:settings).and_return(settings)
    sign_in
    told = events(streamed("states", question).last)
    expect(told.map { |name, data| [name, data["done"]] }).to eq([["progress", 0], ["progress", 1], ["progress", 2], ["answer", nil]])

    asked = Estrel::Analyses::Activity.ask({ "as_of" => "2026-05-31" }, EstrelServer::Answers::Question.new(EstrelServer.ledger.current, as_of: Date.new(2026, 5, 31), rule_set: rules).workspace(EstrelServer::RuleSet.current))
    parts = 0
    allow(asked).to(receive(:partial).and_wrap_original { |method, *given| (parts += 1) && method.call(*given) })
    answer = EstrelServer::Answers::AnalysisAnswer.new(asked, EstrelServer.ledger.current)
    stream = EstrelServer::Answers::EventStream.new(answer, ->(_) {})
    read = 0
    expect { stream.each { (read += 1) == 2 && raise(IOError, "closed stream") } }.to raise_error(IOError)
    expect([parts, kept.size]).to eq([1, 1])
  end

  it "computes once what is asked twice at the same time, and tells both how far it is" do
    begun = Queue.new
    go_on = Queue.new
    computed = 0
    answers = Array.new(2) do
      EstrelServer::Answers::Kept.new(EstrelServer.settings.answers_directory, "generation-1-ab.json")
    end
    told = [[], []]
    ask = lambda do |index|
      answers[index].fetch(["what"], waiting: -> {}, progress: ->(far) { told[index] << far }) do |progress|
        computed += 1
        progress.call({ "done" => 1 })
        begun << true
        go_on.pop
        "the answer"
      end
    end
    first = Thread.new { ask.call(0) }
    begun.pop
    second = Thread.new { ask.call(1) }
    Thread.pass until told[1].any?
    go_on << true
    expect([first.value, second.value, computed]).to eq(["the answer", "the answer", 1])
    expect(told.map(&:first)).to eq([{ "done" => 1 }, { "done" => 1 }])
  end

  it "lets whoever waits take over from one who gives up, and keeps nothing of it" do
    kept = EstrelServer::Answers::Kept.new(EstrelServer.settings.answers_directory, "generation-1-ab.json")
    none = { waiting: -> {}, progress: ->(_) {} }
    expect { kept.fetch(["what"], **none) { raise Estrel::Budget::Cancelled, "gone" } }.to raise_error(Estrel::Budget::Cancelled)
    expect(kept.fetch(["what"], **none) { "now" }).to eq("now")
    expect(kept.fetch(["what"], **none) { raise "asked again" }).to eq("now")
    File.open(Dir[File.join(EstrelServer.settings.answers_directory, "*", "*.lock")].first) do |lock|
      lock.flock(File::LOCK_EX)
      another = EstrelServer::Answers::Kept.new(EstrelServer.settings.answers_directory, "generation-1-ab.json")
      File.unlink(self.kept.first)
      expect { another.fetch(["what"], waiting: -> { raise Estrel::Budget::Exceeded, "too long" }, progress: ->(_) {}) { "never" } }.to raise_error(Estrel::Budget::Exceeded)
    end
  end

  it "answers anew when the ledger, an audience or the rules have changed, and ends on the ledger it began with" do
    audience = call(:post, "/audiences", { name: "Often", definition: { "did" => { "event" => "ride_ended", "count" => { "at_least" => 4 } } } })["id"]
    asked = { as_of: "2026-05-31", audiences: [audience], by: { state: true } }
    expect(picture("breakdown", **asked)["totals"]).to eq([4])
    call(:put, "/audiences/#{audience}", { definition: { "did" => { "event" => "ride_ended", "count" => { "at_least" => 6 } } } })
    expect(picture("breakdown", **asked)["totals"]).to eq([2])
    before = picture("states", **question)["counts"]
    call(:put, "/rule-set", { activity: ["ride_ended"], new_for: 1, active_within: 2, churned_after: 3 })
    expect(picture("states", **question)["counts"]).not_to eq(before)

    generation = EstrelServer.ledger.current
    workspace = EstrelServer::Answers::Question.new(generation, as_of: Date.new(2026, 5, 31), rule_set: rules).workspace(EstrelServer::RuleSet.current)
    import(event("late", subject: "customer:9", time: "2026-05-30T10:00:00Z"))
    replaced = false
    people = Estrel::Analyses::States.ask({}, workspace).over { replaced ||= !refresh.nil? || true }.picture[:people]
    expect([people, picture("states", **question)["people"]]).to eq([6, 7])
    expect(Dir.children(EstrelServer.settings.answers_directory).size).to be <= 2
  end

  it "goes on answering about a type that was hidden since, and says which audience is gone and how many are too many" do
    rides = { series: [{ event: "ride_ended" }], from: "2026-05-01", step: "month", as_of: "2026-05-31" }
    before = picture("trends", **rides)["rows"]
    call(:put, "/catalogue/types/#{EstrelServer::EventType.find_by!(name: "ride_ended").id}", { hidden: true })
    refresh
    expect(picture("trends", **rides)["rows"]).to eq(before)
    expect(picture("ranking", as_of: "2026-05-31", from: "2026-05-01")["rows"].map { |row| row["event"] }).not_to include("ride_ended")

    ids = Array.new(2) { |at| call(:post, "/audiences", { name: "Group #{at}", definition: { "all" => [] } })["id"] }
    call(:delete, "/audiences/#{ids.last}")
    [["trends", rides], ["ranking", { from: "2026-05-01" }], ["breakdown", { by: { state: true } }]].each do |name, question|
      expect(analyse(name, **question, as_of: "2026-05-31", audiences: ids)).to be_refused(422, /Audience #{ids.last} does not exist/)
    end
    expect(analyse("trends", **rides, audiences: (1..12).to_a)).to be_refused(422, /"Audiences" must be a list of at most 6 entries/)
  end

  it "answers anew where another version of Estrel gave the answer" do
    picture("states", **question)
    picture("states", **question)
    expect(kept.size).to eq(1)
    stub_const("Estrel::EDITION", "another")
    picture("states", **question)
    expect(kept.size).to eq(2)
  end

  it "names every question completely by plain data, so that no answer is given to another" do
    workspace = EstrelServer::Answers::Question.new(EstrelServer.ledger.current, as_of: Date.new(2026, 5, 31), rule_set: rules).workspace(EstrelServer::RuleSet.current)
    audience = call(:post, "/audiences", { name: "All", definition: { "any" => [{ "did" => { "event" => "ride_ended", "count" => { "at_least" => 4 } } }, { "lifecycle" => { "is" => ["new"] } }] } })["id"]
    [["states", {}], ["thresholds", { "audiences" => [audience], "by" => { "profile_type" => true } }], ["rules-effect", { "tried" => rules.to_h }],
     ["before-after", { "date" => "2026-05-10", "audience" => audience, "metric" => { "event" => "ride_ended" } }], ["breakdown", { "by" => { "attribute" => "plan" }, "audiences" => [audience] }]].each do |name, asked|
      keys = Array.new(2) { Estrel::Analyses.named(name).ask(asked, workspace).key.inspect }
      expect(keys.uniq.size).to eq(1)
      expect(keys.first).not_to match(/0x\h{8}/)
    end
  end

  it "says what went wrong in a stream too, and that nothing counts as activity yet" do
    sign_in
    allow(Estrel::Statistics::Shares).to receive(:overlapping).and_raise(Estrel::Error, "too few people")
    audiences = %w[A B].map { |name| call(:post, "/audiences", { name: name, definition: { "all" => [] } })["id"] }
    told = events(streamed("breakdown", { audiences: audiences, by: { profile_type: true } }).last)
    expect(told.last).to match(["problem", include("status" => 422, "detail" => "Too few people.")])
    expect(streamed("states", { step: "hour" }).first).to eq(422)
    EstrelServer::EventType.update_all(not_activity: true)
    refresh
    expect(analyse("states")).to include("status" => 409, "detail" => match(/No event type counts as activity yet/))
    expect(analyse("breakdown", by: { profile_type: true })["status"]).to be_nil
  end

  def rules = EstrelServer::Answers::Asking.rule_set(EstrelServer::RuleSet.current.rules_json, EstrelServer.ledger.current.catalogue)
end
