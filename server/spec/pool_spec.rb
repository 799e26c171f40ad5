# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Answers::Pool do
  include ApiHelper

  before { fill }

  after { pids.each { |pid| Process.kill("KILL", pid) && Process.wait(pid) } }

  let(:pids) { [] }
  let(:settings) { EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_ANSWERING_PROCESSES" => "2")) }
  # The ledger as the web process has it; what is computed in it is remembered in its cache.
  let(:generation) { Estrel::Ledger.new(settings.ledger_directory).current }

  def start(slot)
    FileUtils.rm_f(described_class.path(settings, slot))
    pids << Process.spawn(File.join(ROOT, "bin/estrel"), "answer", *(slot == described_class::LISTS ? ["--lists"] : ["--slot", slot.to_s]))
    socket = described_class.path(settings, slot)
    sleep 0.05 until File.socket?(socket)
  end

  def rules = EstrelServer::Answers::Asking.rule_set(EstrelServer::RuleSet.current.rules_json, generation.catalogue)

  def computed_here? = generation.cache.cache.instance_variable_get(:@entries).any?

  def asked(name, question, budget: Estrel::Budget::NONE)
    today = Date.new(2026, 6, 1)
    workspace = Estrel::Analyses::Workspace.new(ledger: generation, as_of: today - 1, today: today, rules: rules, budget: budget,
                                                stored: EstrelServer::Answers::Stored.new(generation.catalogue, EstrelServer::RuleSet.current, generation))
    Estrel::Analyses.named(name).ask(question, workspace).tap(&:key)
  end

  def told(answer) = JSON.parse(JSON.generate(answer.to_h))

  it "answers from two processes what one answers by itself, and by itself where there are none, they have ended, or the ledger is new" do
    questions = { "states" => { "from" => "2026-05-01", "step" => "day" }, "activity" => {}, "revisions" => { "from" => "2026-05-01" } }
    alone = questions.to_h { |name, question| [name, told(asked(name, question).over)] }
    fresh = Estrel::Ledger.new(settings.ledger_directory).current
    generation.cache.cache.instance_variable_get(:@entries).clear
    [0, 1].each { |slot| start(slot) }
    progress = []
    questions.each do |name, question|
      found = asked(name, question).over(described_class.new(settings)) { |done, all, _| progress << [done, all] }
      expect(told(found)).to eq(alone[name]), name
    end
    expect([computed_here?, progress.map(&:last).uniq, fresh.manifest_name]).to eq([false, [2], generation.manifest_name])

    pids.each { |pid| Process.kill("KILL", pid) && Process.wait(pid) }.clear
    expect(told(asked("states", questions["states"]).over(described_class.new(settings)))).to eq(alone["states"])
    expect(computed_here?).to be(true)
  end

  it "has the figures and the people of audiences found by other processes, too" do
    alone = told_of_audiences(Estrel::Ledger.new(settings.ledger_directory).current, Estrel::Analyses::InTurn)
    [0, 1].each { |slot| start(slot) }
    expect(told_of_audiences(generation, described_class.new(settings))).to eq(alone)
    expect([computed_here?, alone.first[0], alone.first[1].size]).to eq([false, 5, 5])
  end

  it "has lists found by the process for them, though those for questions are stopped" do
    alone = told_of_audiences(Estrel::Ledger.new(settings.ledger_directory).current, Estrel::Analyses::InTurn)
    [0, 1, described_class::LISTS].each { |slot| start(slot) }
    pids.first(2).each { |pid| Process.kill("STOP", pid) }
    described_class.for_lists = true
    expect(told_of_audiences(generation, described_class.new(settings))).to eq(alone)
    expect(computed_here?).to be(false)
  ensure
    described_class.for_lists = nil
  end

  it "gives up when the question has been withdrawn, and goes on answering others" do
    start(0)
    budget = Estrel::Budget.new(cancelled: -> { true })
    expect { asked("states", {}, budget: budget).over(described_class.new(settings)) }.to raise_error(Estrel::Budget::Cancelled)
    expect(told(asked("states", {}).over(described_class.new(settings)))["finding"]).not_to be_empty
  end

  it "takes nothing for a question but what a web process has sent, and survives whatever else comes" do
    start(0)
    path = described_class.path(settings, 0)
    expect(File.stat(path).mode & 0o077).to eq(0)
    ["", "x", [12].pack("Q>"), [3].pack("Q>") + "abc"].each { |bytes| UNIXSocket.open(path) { |socket| socket.write(bytes) } }
    expect(told(asked("states", {}).over(described_class.new(settings)))["finding"]).not_to be_empty
    expect(Process.wait(pids.first, Process::WNOHANG)).to be_nil
  end
end
