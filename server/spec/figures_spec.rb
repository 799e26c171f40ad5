# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Figures do
  include ApiHelper

  let(:token) { EstrelServer::ApiToken.issue(sign_in, "watcher", ["read"]).last }

  # What Prometheus is told: by name and labels, as they stand there, the value.
  def figures(authorization = "Bearer #{token}")
    header("Host", "127.0.0.1:4270")
    header("Authorization", authorization)
    get("/metrics")
    header("Authorization", nil)
    return last_response.status unless last_response.ok?

    last_response.body.lines.reject { |line| line.start_with?("#") }.to_h { |line| line.chomp.split(/ (?=[^ ]+\z)/) }.transform_values(&:to_f)
  end

  it "counts what is done, tells how things stand, and names nobody" do
    Delayed::Job.delete_all # of other examples
    fill
    before = figures
    call(:get, "/people?as_of=2026-05-20&search=b%40b.example")
    analyse("activity", as_of: "2026-05-20")
    call(:post, "/analyses/activity", { from: "never" })
    import([event("new"), event("new"), "{"].join("\n"))
    EstrelServer::Workers::Upkeep.new("ledger").step("refresh") { raise "out of order" }
    now = figures
    added = ->(name) { now.fetch(name) - before.fetch(name, 0) }
    expect(added.call('estrel_requests_total{method="GET",route="/people",status="200"}')).to eq(1)
    expect(added.call('estrel_requests_total{method="POST",route="/analyses/activity",status="422"}')).to eq(1)
    expect(added.call('estrel_question_seconds_count{analysis="activity"}')).to eq(1)
    expect(%w[stored known rejected].map { |outcome| added.call("estrel_imported_rows_total{outcome=\"#{outcome}\"}") }).to eq([1, 1, 1])
    expect(added.call('estrel_faults_total{process="ledger"}')).to eq(1)
    expect(now).to include("estrel_ledger_events" => EstrelServer.ledger.current.facts["event_count"].to_f, 'estrel_up{check="database"}' => 1.0, 'estrel_jobs_waiting{queue="imports"}' => 0.0)
    expect(now.fetch("estrel_disk_free_bytes")).to be_positive
    described_class.register("web")
    expect(figures.fetch('estrel_memory_bytes{process="web"}')).to be > 10_000_000
    expect(last_response.body).not_to match(/b\.example|customer:/)
    expect([figures("Bearer #{token}x"), figures(nil), figures("Basic x")]).to eq([401] * 3)
  end

  it "goes on counting once a figure can be kept again that could not be" do
    Dir.mktmpdir do |var|
      allow(EstrelServer).to receive(:settings).and_return(EstrelServer::Settings.from({ "ESTREL_VAR" => var }))
      described_class.reopen
      in_the_way = File.join(var, "figures/values/metric_estrel_jobs_total___#{Process.pid}.bin")
      FileUtils.mkdir_p(in_the_way)
      EstrelServer::Log.output = StringIO.new
      count = -> { described_class.count(:jobs_total, { queue: "imports", outcome: "done" }) }
      expect { 2.times { count.call } }.to change { EstrelServer::Log.instance_variable_get(:@output).string.scan("a figure cannot be kept").size }.by(2)
      FileUtils.rmdir(in_the_way)
      2.times { count.call }
      expect(described_class.text).to match(/^estrel_jobs_total\{[^}]*"imports"[^}]*\} 2\.0$/)
    end
  ensure
    EstrelServer::Log.output = nil
    described_class.reopen
  end

  it "holds nobody up where a figure could not be written while its file was locked" do
    observe = -> { described_class.time(:question_seconds, 1, { analysis: "activity" }) }
    observe.call
    before = figures.fetch('estrel_question_seconds_count{analysis="activity"}')
    limits = Process.getrlimit(:FSIZE)
    handler = trap("XFSZ", "IGNORE")
    GC.disable
    EstrelServer::Log.output = StringIO.new
    Process.setrlimit(:FSIZE, 0, limits[1])
    Timeout.timeout(20) { 2.times { observe.call } }
    Process.setrlimit(:FSIZE, *limits)
    observe.call
    expect(figures.fetch('estrel_question_seconds_count{analysis="activity"}')).to eq(before + 1)
  ensure
    Process.setrlimit(:FSIZE, *limits)
    trap("XFSZ", handler)
    GC.enable
    EstrelServer::Log.output = nil
  end

  it "has every figure that the alerts and the dashboard ask for" do
    asked = %w[prometheus-alerts.yml dashboard.json].flat_map { |file| File.read(File.join(ROOT, "docs/examples", file)).scan(/\bestrel_[a-z_]+/) }.uniq
    figures
    known = last_response.body.scan(/^# TYPE (\S+) (\S+)/).flat_map { |name, kind| kind == "histogram" ? ["#{name}_bucket", "#{name}_count"] : [name] }
    expect(asked.size).to be > 10
    expect(asked - known).to eq([])
  end
end
