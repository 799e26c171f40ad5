# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe "pushes whose parts are killed at random moments" do
  # Besides the workers, of which there are two.
  let(:victims) { Checks.all? ? { database: 6, web: 2, stand_in: 30 } : { database: 1, web: 1, stand_in: 3 } }
  let(:kills) { Checks.all? ? 205 : 20 }
  let(:people_count) { 240 }
  let(:stack) { CrashStack.new(File.join(ROOT, "var/push-crash"), ESTREL_PUSH_PAUSE_MS: "20") }
  let(:random) { Random.new(Checks.seed) }
  let(:exports) { Array.new(4) { |number| api(:post, "/exports", new_export("Export #{number}", number.odd?))["id"] } }

  after { stack.stop }

  # Until the server, which is killed too, has answered.
  def api(...)
    100.times do
      answer = stack.api(...)
      return answer if answer

      sleep 0.1
    end
    raise "the server does not answer"
  end

  def fill
    lines = (1..people_count).map { |number| JSON.generate({ specversion: "1.0", id: number.to_s, source: "app", type: "ride_ended", subject: "customer:#{number}", time: "2026-05-03T10:00:00Z", data: {} }) }
    file = File.join(stack.settings.var, "events.jsonl")
    File.write(file, lines.join("\n"))
    stack.estrel("import", "events", file)
  end

  def audience = @audience ||= api(:post, "/audiences", { name: "Everybody", definition: { all: [] } })["id"]

  def holdout = @holdout ||= api(:post, "/holdouts", { name: "Some", share: 0.2 })["id"]

  def destination = @destination ||= api(:post, "/destinations", { name: "Post", kind: "webhook", secret: secret, settings: { url: "#{stack.stand_in}/batches", batch_size: 8, timeout: 2 } })["id"]

  def secret
    sleep 0.1 until Net::HTTP.get_response(URI("#{stack.stand_in}/")).is_a?(Net::HTTPOK)
    stack.query("SELECT secret FROM service_settings", database: "ferrowick_post").dig(0, 0)
  rescue SystemCallError
    sleep 0.1
    retry
  end

  def new_export(name, with_holdout)
    { name: name, audience_id: audience, destination_id: destination, rules: { columns: [{ take: "identifier:customer" }], holdout: with_holdout ? holdout : nil } }
  end

  # Keeps every export under way, as analysts would who do not know that something is wrong.
  def keep_going
    exports.each do |id|
      run = stack.api(:get, "/exports/#{id}")&.dig("runs", 0)
      stack.api(:post, "/exports/#{id}/runs", {}) if run.nil? || run["state"] == "done"
      stack.api(:post, "/runs/#{run["id"]}/resume") if run && run["state"] == "failed"
    end
  end

  def settle
    deadline = Process.clock_gettime(Process::CLOCK_MONOTONIC) + 120
    loop do
      runs = api(:get, "/runs")["runs"]
      return if runs.all? { |run| run["state"] == "done" }

      runs.each { |run| api(:post, "/runs/#{run["id"]}/resume") if run["state"] == "failed" }
      if Process.clock_gettime(Process::CLOCK_MONOTONIC) > deadline
        raise "not settled: #{runs.reject { |run| run["state"] == "done" }} seed #{random.seed}"
      end

      sleep 0.3
    end
  end

  def expected_keys(id, token)
    steps = Polars.read_ipc(File.join(stack.settings.exports_directory, "steps-of-run-#{id}.arrow"), memory_map: false)
    exported = steps.filter(Polars.col("step") == "exported")["profile_id"].to_a
    exported.map { |profile| EstrelServer::Pushing::PeopleFile.key(Struct.new(:token).new(token), profile) }
  end

  it "hands everybody over exactly once, by the destination's own record" do
    stack.start
    fill
    [:web, :stand_in, [:worker, 1], [:worker, 2]].each { |part| stack.restart(part) }
    order = victims.flat_map { |part, times| [part] * times }
    order += Array.new(kills - order.size) { [:worker, 1 + random.rand(2)] }
    order.shuffle(random: random).each_with_index do |victim, index|
      keep_going if (index % 4).zero?
      sleep random.rand * 0.2
      stack.kill(victim)
      stack.restart(victim)
    end
    settle
    runs = stack.query("SELECT id, token FROM export_runs")
    expect(runs.size).to be >= 4
    runs.each do |id, token|
      taken = stack.query("SELECT message_key FROM messages WHERE run = '#{token}'", database: "ferrowick_post").flatten
      expect(taken).to match_array(expected_keys(id, token)), "run #{id}, seed #{random.seed}"
      ours = stack.query("SELECT SUM(row_count), SUM(state = 'taken') = COUNT(*) FROM push_batches WHERE export_run_id = #{id}")
      expect(ours).to eq([[taken.size, 1]])
    end
    expect(stack.query("SELECT COUNT(*) FROM messages", database: "ferrowick_post")).to eq([[runs.sum { |id, token| expected_keys(id, token).size }]])
    # After so many kills some have been told of more than once, or the keys would have had nothing to do.
    again = stack.query("SELECT SUM(people) - (SELECT COUNT(*) FROM messages) FROM requests WHERE status = 200", database: "ferrowick_post").dig(0, 0)
    expect(again).to be_positive, "seed #{random.seed}" if Checks.all?
  end
end
