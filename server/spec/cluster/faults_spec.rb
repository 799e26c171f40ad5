# frozen_string_literal: true

require "fileutils"
require "tmpdir"

ROOT = File.expand_path("../../..", __dir__)
require_relative "../../lib/estrel_server"
require_relative "hosts"
require_relative "cluster"
require_relative "load"

# While 500 events a second come in and questions are asked, one thing after the other goes wrong.
RSpec.describe "a cluster of databases" do
  let(:cluster) { Cluster.new(File.join(Dir.tmpdir, "estrel-cluster")) }
  let(:key) { cluster.estrel("source", "add", "app")[/ek_\S+/] }
  let(:load) { Load.new(cluster, key) }
  let(:faults) do
    {
      "a database server is killed" => ->(cluster) { cluster.kill_database(:three) },
      "it is started again" => ->(cluster) { cluster.start_database(:three) && cluster.wait { cluster.joined?(:three) } },
      "the server that is written to is killed" => ->(cluster) { cluster.kill_database(:one) },
      "it comes back and is written to again" => ->(cluster) { cluster.start_database(:one) && cluster.wait { cluster.joined?(:one) } },
      "packets to and from it vanish" => ->(cluster) { cluster.cut_off(:one) },
      "they no longer do" => ->(cluster) { cluster.mend(:one) && cluster.wait { cluster.joined?(:one) } },
      "the way to another takes 300 ms" => ->(cluster) { cluster.slow(:two, 300) },
      "it no longer does" => ->(cluster) { cluster.mend(:two) },
      "the collector is killed and started" => ->(cluster) { cluster.kill_estrel(:collector) && cluster.start_estrel(:collector) },
      "what carries out exports is killed and started" => ->(cluster) { cluster.kill_estrel(:exports) && cluster.start_estrel(:exports) },
      "the machine that builds the ledger vanishes" => ->(cluster) { cluster.cut_off(cluster.leader) },
      "it is there again" => ->(cluster) { (%i[web other] - cluster.answering).each { |host| cluster.mend(host) } },
      "what builds the ledger is killed and started" => ->(cluster) { cluster.kill_estrel(:ledger) && cluster.start_estrel(:ledger) },
      "what answers parts is killed" => ->(cluster) { %i[first first_ledger].each { |part| cluster.kill_estrel(part) } },
      "it comes back, and packets to and from another one vanish" => lambda do |cluster|
        %i[first first_ledger].each { |part| cluster.start_estrel(part) }
        cluster.cut_off(:second)
      end,
      "they no longer do, and the way to a third takes 300 ms" => ->(cluster) { cluster.mend(:second) && cluster.slow(:third, 300) },
      "it no longer does, and what is between the hosts is killed on two" => lambda do |cluster|
        cluster.mend(:third)
        %i[first second].each { |host| cluster.kill_nats(host) }
      end,
      "it is killed on the third" => ->(cluster) { cluster.kill_nats(:third) },
      "it comes back" => ->(cluster) { %i[first second third].each { |host| cluster.start_nats(host) } },
      "everything is killed and started in any order" => lambda do |cluster|
        %i[one two three].each { |name| cluster.kill_database(name) }
        Cluster::HOLDERS.each_key { |host| cluster.kill_nats(host) }
        Cluster::PARTS.each_key { |part| cluster.kill_estrel(part) }
        steps = [*%i[one two three].map { |name| -> { cluster.start_database(name) } }, *Cluster::HOLDERS.keys.map { |host| -> { cluster.start_nats(host) } }, *Cluster::PARTS.keys.map { |part| -> { cluster.start_estrel(part) } }]
        steps.shuffle(random: Random.new(RSpec.configuration.seed)).each(&:call)
      end
    }
  end

  after do
    load.stop
    cluster.stop
  end

  it "keeps every acknowledged event exactly once, in the store and in every answer, whatever of it fails" do
    cluster.start
    load.start
    load.recovered
    elsewhere = faults.map do |what, happen|
      before = cluster.elsewhere
      happen.call(cluster)
      stored, answered = load.recovered(cluster.answering)
      load.caught_up unless cluster.slow?
      gained = cluster.elsewhere.sum { |host, parts| parts - before.fetch(host, parts) }
      RSpec.configuration.reporter.message("  #{what}: stored after #{stored} s, in all answers after #{answered} s, #{gained} parts answered elsewhere")
      gained
    end
    load.stop
    # Where everybody has just done something, as here, a new ledger is all new, and questions asked at once are answered
    # before it has arrived elsewhere.
    expect(elsewhere.count(&:positive?)).to be >= faults.size / 3
    sent = load.sent * Load::BATCH
    expect(load.acknowledged).to eq(load.sent)
    expect(cluster.query("SELECT COUNT(*), COUNT(DISTINCT event_key) FROM events")).to eq([[sent, sent]])
    expect(cluster.query("SELECT COUNT(*) FROM profiles")).to eq([[997]])
    load.answers.each do |host, answers|
      cluster.wait { cluster.counted(host) == sent }
      expect(answers.map(&:first)).to eq(answers.map(&:first).sort), "an answer held less than one before"
      expect(answers).to all(satisfy { |count, there_were| count <= there_were })
    end
    runs = load.runs.map { |id| cluster.wait { cluster.ended(id) } }
    expect(runs.size).to be > faults.size
    expect(runs.map { |run| run["state"] }.uniq).to eq(["done"])
    expect(runs).to all(satisfy { |run| cluster.exported(run).uniq.size == run["row_count"] })
    expect(runs.last["row_count"]).to eq(997)
  end
end
