# frozen_string_literal: true

require_relative "server_helper"

# Parts of questions answered by processes that are reached by NATS, as they are on other machines.
RSpec.describe EstrelServer::Parts do
  include ApiHelper

  before do
    fill
    EstrelServer::Log.output = StringIO.new
  end

  after do
    pids.dup.each { |pid| end_holder(pid) }
    network.close
    nats.stop
    EstrelServer::Log.output = nil
  end

  let(:pids) { [] }
  let(:nats) { NatsServer.new }
  let(:given) { { "ESTREL_NATS_URL" => nats.url, "ESTREL_SECRETS_KEY" => "of all machines", "ESTREL_PARTS" => "6", "ESTREL_PARTS_FROM_EVENTS" => "0" } }
  let(:settings) { EstrelServer::Settings.from(ENV.to_h.merge(given)) }
  let(:network) { EstrelServer::Parts::Network.new(settings) }
  let(:elsewhere) { EstrelServer::Parts::Elsewhere.new(network, settings.parts) }
  # The ledger as the web process has it; what is computed in it is remembered in its cache.
  let(:generation) { Estrel::Ledger.new(settings.ledger_directory).current }

  def hold(*words, **more)
    pids << Process.spawn(given.merge(more.transform_keys(&:to_s)), File.join(ROOT, "bin/estrel"), "answer", "--slot", (10 + pids.size).to_s, *words)
    size = pids.size
    wait { EstrelServer::Parts::Elsewhere.new(network, settings.parts).size == size } if more.empty?
    pids.last
  end

  def end_holder(pid)
    Process.kill("KILL", pid)
    Process.wait(pid)
    pids.delete(pid)
  end

  def wait
    deadline = Time.now + 30
    sleep 0.05 until (found = yield) || Time.now > deadline
    expect(found).to be_truthy
  end

  # Whether a process with these settings comes by a connection.
  def connected?(url, authority = nil, seconds: 3)
    network = EstrelServer::Parts::Network.new(EstrelServer::Settings.from(given.merge("ESTREL_NATS_URL" => url, "ESTREL_NATS_CA" => authority).compact))
    (seconds * 20).times { network.client ? break : sleep(0.05) }
    !network.client.nil?
  ensure
    network.close
  end

  def computed_here? = generation.cache.cache.instance_variable_get(:@entries).any?

  def asked(name, question, budget: Estrel::Budget::NONE)
    today = Date.new(2026, 6, 1)
    rules = EstrelServer::Answers::Asking.rule_set(EstrelServer::RuleSet.current.rules_json, generation.catalogue)
    workspace = Estrel::Analyses::Workspace.new(ledger: generation, as_of: today - 1, today: today, rules: rules, budget: budget,
                                                stored: EstrelServer::Answers::Stored.new(generation.catalogue, EstrelServer::RuleSet.current, generation))
    Estrel::Analyses.named(name).ask(question, workspace).tap(&:key)
  end

  def told(answer) = JSON.parse(JSON.generate(answer.to_h))

  def pool(from = elsewhere) = EstrelServer::Answers::Pool.new(settings, from)

  def over_network(name, question = {}, **more) = told(asked(name, question, **more).over(pool))

  # How many parts came from elsewhere in the questions of the block.
  def from_elsewhere
    counts = []
    asking = ->(original, *words, &block) { original.call(*words, &block).tap { |found| counts << [found.size, words[1].size] } }
    allow(elsewhere).to receive(:ask).and_wrap_original(&asking)
    yield
    counts
  end

  it "are reached so that nobody can listen where that is asked for, by servers that are certified and by no others" do
    Dir.mktmpdir do |place|
      right, wrong, key = %w[right.pem wrong.pem key].map { |name| File.join(place, name) }
      [wrong, right].each { |path| Certificate.new("localhost").write(path, key) }
      hidden = NatsServer.new("--tls", "--tlscert", right, "--tlskey", key)
      url = hidden.url(scheme: "tls", host: "localhost")
      expect(connected?(url, right, seconds: 60)).to be(true)
      expect([connected?(url, wrong), connected?(url), connected?(hidden.url(scheme: "tls"), right)]).to eq([false] * 3)
      expect(connected?(nats.url(scheme: "tls", host: "localhost"), right)).to be(false)
    ensure
      hidden&.stop
    end
  end

  it "has the people of audiences found elsewhere, too" do
    alone = told_of_audiences(Estrel::Ledger.new(settings.ledger_directory).current, Estrel::Analyses::InTurn)
    2.times { hold }
    expect(from_elsewhere { expect(told_of_audiences(generation, pool)).to eq(alone) }).to eq([[6, 6]] * alone.size)
    expect(computed_here?).to be(false)
  end

  it "answers what one process answers by itself, whoever of the holders is asked, and by itself where there are none" do
    questions = { "states" => { "from" => "2026-05-01", "step" => "day" }, "activity" => {}, "revisions" => { "from" => "2026-05-01" } }
    alone = questions.to_h { |name, question| [name, told(asked(name, question).over)] }
    generation.cache.cache.instance_variable_get(:@entries).clear
    2.times { hold }
    counts = from_elsewhere { questions.each { |name, question| expect(over_network(name, question)).to eq(alone[name]), name } }
    expect([counts.map { |found, all| found == all && (all % 6).zero? }.uniq, computed_here?]).to eq([[true], false])
    pids.dup.each { |pid| end_holder(pid) }
    expect([from_elsewhere { expect(over_network("states", questions["states"])).to eq(alone["states"]) }.flatten.first, computed_here?]).to eq([0, true])
    nats.stop
    expect(over_network("states", questions["states"])).to eq(alone["states"])
    nats.start
  end

  it "asks another where one is stopped, cut short, or does not have the ledger, and the rest here" do
    first = hold
    hold
    alone = told(asked("states", {}).over)
    expect(over_network("states")).to eq(alone)
    # Where the machine is busy another one may be too late as well, and the rest is answered here.
    whole = -> { from_elsewhere { expect(over_network("states")).to eq(alone) }.all? { |found, all| found == all } }
    Process.kill("STOP", first)
    wait(&whole)
    Process.kill("CONT", first)
    end_holder(pids.last)
    other = Dir.mktmpdir
    hold(ESTREL_VAR: other)
    wait { EstrelServer::Parts::Elsewhere.new(network, settings.parts).size == 2 }
    wait(&whole)
    end_holder(first)
    expect(from_elsewhere { expect(over_network("states")).to eq(alone) }.first.first).to eq(0)
  ensure
    FileUtils.rm_rf(other)
  end

  # What a machine takes that does nothing but answer.
  def mirrored(ledger, held)
    settings = EstrelServer::Settings.from(ENV.to_h.merge(given, "ESTREL_VAR" => Dir.mktmpdir, "ESTREL_PARTS_HELD" => held))
    Estrel::Ledger::Replica.new(settings.ledger_directory, settings.held).take(ledger.manifest_name) do |pieces|
      pieces.map { |name, offset| File.binread(File.join(ledger.directory, name), Estrel::Ledger::Fetch::CHUNK, offset).to_s }
    end
    settings.var
  end

  it "has machines answer that have nothing but the pieces they hold, and does itself what nobody holds" do
    whole = EstrelServer::LedgerBuilding::Builder.new(Estrel::Ledger.new(settings.ledger_directory), settings).build(rebuild: true) && generation
    expect([whole.pieces.size, whole.pieces.sum(&:base_size)]).to eq([6, whole.ids.len])
    questions = { "states" => { "from" => "2026-05-01", "step" => "day" }, "revisions" => { "from" => "2026-05-01" } }
    alone = questions.to_h { |name, question| [name, told(asked(name, question).over)] }
    places = %w[0-1 2-5].map { |held| mirrored(whole, held).tap { |var| hold("--held", ESTREL_VAR: var, ESTREL_PARTS_HELD: held) } }
    wait { EstrelServer::Parts::Elsewhere.new(network, settings.parts).size == 2 }
    expect(places.map { |place| Dir.glob(File.join(place, "ledger", "profiles-*.arrow")).size }).to eq([2, 4])
    answers = -> { from_elsewhere { questions.each { |name, question| expect(over_network(name, question)).to eq(alone[name]), name } } }
    wait { answers.call.all? { |found, all| found == all } }
    end_holder(pids.last)
    expect(answers.call).to all(satisfy { |found, all| found * 3 == all })
  ensure
    FileUtils.rm_rf(places.to_a)
  end

  it "takes answers in pieces, and gives a question up when it is withdrawn" do
    stub_const("EstrelServer::Parts::Pieces::SIZE", 512)
    hold
    large = Estrel::Transit.dump(analysis: asked("states", {}), found: [], ledger: generation.reference, parts: 6, bytes: Float::INFINITY, seconds: Float::INFINITY, log: {})
    expect(elsewhere.ask(large, [*0..5], :states) { nil }.keys.sort).to eq([*0..5])
    budget = Estrel::Budget.new(cancelled: -> { true })
    expect { over_network("states", budget: budget) }.to raise_error(Estrel::Budget::Cancelled)
    expect(over_network("states")["finding"]).not_to be_empty
  end

  it "believes only what is sealed with the key that all machines have, for what it was sealed for" do
    seal = network.seal
    sealed = seal.close("ask", "bytes")
    expect([seal.open("ask", sealed), seal.open("answer", sealed), seal.open("ask", "#{sealed}x"), seal.open("ask", "short"), seal.open("ask", "")]).to eq(["bytes", nil, nil, nil, nil])
    other = EstrelServer::Parts::Seal.new(EstrelServer::Settings.from(ENV.to_h.merge(given, "ESTREL_SECRETS_KEY" => "another")))
    expect([other.open("ask", sealed), other.name == seal.name]).to eq([nil, false])
    expect(seal.open("ask", sealed)).to be_nil # a second time
    times = [100.0, 161.0, 100.0]
    dated = EstrelServer::Parts::Seal.new(settings, clock: -> { times.shift || 100.0 })
    late = dated.close("ask", "late")
    expect([dated.open("ask", late), dated.open("ask", late)]).to eq([nil, "late"])
    pid = hold
    wait { network.client }
    ["", "x" * 40, other.close("ask", Marshal.dump(["id", 0, ""]))].each { |bytes| network.client.publish(network.subject("part", 0), bytes) }
    stranger = network.client.subscribe(network.subject("part", ">")) { |message| 3.times { |n| network.client.publish(message.reply, EstrelServer::Parts::Pieces.cut("x" * 22, "wrong" * n).first) } }
    alone = told(asked("states", {}).over)
    expect(over_network("states")).to eq(alone)
    stranger.unsubscribe
    expect(Process.wait(pid, Process::WNOHANG)).to be_nil
  end

  it "says what is wrong with where the machines are" do
    { { "ESTREL_NATS_URL" => "http://x:1" } => %r{nats://host}, { "ESTREL_PARTS_HELD" => "0-6" } => /numbers from 0 to 5/, { "ESTREL_PARTS_HELD" => "x" } => /numbers/,
      { "ESTREL_SECRETS_KEY" => nil } => /the same ESTREL_SECRETS_KEY/ }.each do |wrong, message|
      expect { EstrelServer::Settings.from(ENV.to_h.merge(given, wrong).compact) }.to raise_error(EstrelServer::Settings::Invalid, message)
    end
    expect(EstrelServer::Settings.from(ENV.to_h.merge(given, "ESTREL_PARTS_HELD" => "0-2, 5")).parts_held).to eq([0, 1, 2, 5])
  end
end
