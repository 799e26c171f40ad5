# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe "processes that are killed under load" do
  DIRECTORY = File.join(ROOT, "var/supervised")
  LIMIT = 15

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  def control(*words) = IO.popen(@environment, ["supervisorctl", "-c", File.join(ROOT, "config/supervisor.conf"), *words], err: File::NULL, &:read)

  def pids = control("status").lines.to_h { |line| [line.split.first, line[/pid (\d+)/, 1]&.to_i] }

  def http(port, path) = Net::HTTP.start("127.0.0.1", port, open_timeout: 2, read_timeout: 5) { |http| http.get(path, { "authorization" => "Bearer #{@token}" }) }

  # A question is answered with everything that had been acknowledged.
  def served?(acknowledged = 0)
    return false unless http(@stack.settings.collector_port, "/health").code == "200"

    told = http(@stack.settings.port, "/api/workspace")
    @told = "#{told.code} #{told.body[0, 300]}, #{acknowledged} acknowledged"
    told.code == "200" && pids.values.none?(&:nil?) && JSON.parse(told.body).dig("data", "events").to_i >= acknowledged
  rescue SystemCallError, EOFError, Net::OpenTimeout, Net::ReadTimeout => e
    @told = e.class.name
    false
  end

  def send_on(key)
    headers = { "authorization" => "Bearer #{key}", "content-type" => "application/cloudevents-batch+json" }
    number = 0
    until @stopping
      events = Array.new(20) { |index| { specversion: "1.0", id: "#{number}-#{index}", source: "app", type: "ride_ended", subject: "customer:#{index}", time: "2026-05-03T10:00:00Z", data: { n: number } } }
      begin
        answer = Net::HTTP.post(URI("#{@stack.collector}/events"), JSON.generate(events), headers)
        @acknowledged.concat(events.map { |event| event[:id] }) if answer.is_a?(Net::HTTPOK)
        number += 1 if answer.is_a?(Net::HTTPOK)
      rescue SystemCallError, EOFError, Net::OpenTimeout, Net::ReadTimeout
        nil # sent again
      end
      sleep 0.1
    end
  end

  def wait(seconds, what)
    deadline = now + seconds
    sleep 0.2 until yield || now > deadline
    expect(now).to be <= deadline, "#{what} took longer than #{seconds} s: #{@told}\n#{control("status")}"
  end

  it "are back within seconds, take no other with them, and lose nothing that was acknowledged" do
    @acknowledged = []
    @stack = CrashStack.new(DIRECTORY)
    @stack.start
    key = @stack.estrel("source", "add", "app")[/ek_\S+/]
    @token = @stack.token
    @stack.stop
    FileUtils.mkdir_p(File.join(DIRECTORY, "log"))
    @environment = @stack.environment.merge("ESTREL_STAND_IN" => "on")
    supervisor = Process.spawn(@environment, "supervisord", "--nodaemon", "--configuration", File.join(ROOT, "config/supervisor.conf"), out: File.join(DIRECTORY, "out"), err: %i[child out])
    wait(60, "the start") { served? }
    sender = Thread.new { send_on(key) }
    wait(30, "the first events") { @acknowledged.size > 100 && served?(100) }
    [*pids.keys, "database"].shuffle(random: Random.new(1)).each do |victim|
      before = pids
      acknowledged = @acknowledged.size
      Process.kill("KILL", before.fetch(victim))
      sleep 0.5
      wait(LIMIT, victim) { served?(acknowledged) }
      expect(pids.except(victim)).to eq(before.except(victim)), "#{victim} took others with it"
    end
    @stopping = true
    sender.join
    expect(@stack.query("SELECT event_key FROM events").flatten - @acknowledged).to have_attributes(size: be <= 20)
    expect(@acknowledged - @stack.query("SELECT event_key FROM events").flatten).to eq([])
  ensure
    @stopping = true
    Process.kill("TERM", supervisor) && Process.wait(supervisor) if supervisor
  end
end
