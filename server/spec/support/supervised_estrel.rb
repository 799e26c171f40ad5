# frozen_string_literal: true

require "net/http"

# All of Estrel under its process manager, with a database and data of its own, and a source that goes on sending.
class SupervisedEstrel
  CONFIGURATION = File.join(ROOT, "config/supervisor.conf")
  AWAY = [SystemCallError, EOFError, Net::OpenTimeout, Net::ReadTimeout].freeze

  # Ids of the acknowledged events, and the state at the last check.
  attr_reader :acknowledged, :last_status, :stack, :key

  # @param stand_in [String] whether the messaging stand-in runs: "on", "off"
  # @param full [Boolean] whether what the process manager says of itself has no room
  def initialize(directory, stand_in: "on", full: false)
    @directory = directory
    @stand_in = stand_in
    @output = full ? "/dev/full" : File.join(directory, "out")
    @full = full
    @stack = CrashStack.new(directory)
    @acknowledged = []
  end

  def start
    @stack.start
    @key = @stack.estrel("source", "add", "app")[/ek_\S+/]
    @stack.stop
    FileUtils.mkdir_p(log = File.join(@directory, "log"))
    File.symlink("/dev/full", File.join(log, "supervisor.log")) if @full
    @environment = @stack.environment.merge("ESTREL_STAND_IN" => @stand_in)
    # Other specs run at the same time, and their browser would take precedence over the ledger, which is niced.
    @pid = Process.spawn(@environment, "nice", "-n", "-10", File.join(ROOT, "bin/run"), out: @output, err: %i[child out])
  end

  def stop
    end_load
    Process.kill("TERM", @pid) && Process.wait(@pid) if @pid
    @pid = nil
  end

  # @return [Hash{String => Integer}] of the children of the process manager, which names them by their environment
  def pids
    File.read("/proc/#{@pid}/task/#{@pid}/children").split.filter_map do |pid|
      group, name = %w[GROUP PROCESS].map { |what| environment_of(pid)[/\0SUPERVISOR_#{what}_NAME=([^\0]+)/, 1] }
      [[group, name].uniq.join(":"), pid.to_i] if name
    end.to_h
  end

  # Runs the block while one of the processes is stopped.
  def without(process)
    control("stop", process)
    yield
  ensure
    control("start", process)
  end

  # A question is answered with everything that had been acknowledged.
  def served?(events = 0)
    return false unless get(@stack.settings.collector_port, "/health").code == "200"

    answer = get(@stack.settings.port, "/api/workspace")
    missing = names - pids.keys
    @last_status = "#{answer.code} #{answer.body[0, 300]}, #{events} acknowledged, #{missing} missing"
    answer.code == "200" && missing.empty? && JSON.parse(answer.body).dig("data", "events").to_i >= events
  rescue *AWAY => e
    @last_status = e.class.name
    false
  end

  # @return [Boolean] whether it came true in time
  def wait(seconds)
    deadline = now + seconds
    until (found = yield)
      break if now > deadline

      sleep 0.2
    end
    found
  end

  def begin_load = @sender = Thread.new { send_batch until @stopping }

  def end_load
    @stopping = true
    @sender&.join
  end

  # @return [Array<String>] ids of the events in the store
  def stored = @stack.query("SELECT event_key FROM events").flatten

  # @return [Array<Integer>] processes that are still there
  def leftovers
    Dir.glob("/proc/[0-9]*/environ").filter_map do |path|
      path[/\d+/].to_i if File.binread(path).split("\0").include?("ESTREL_VAR=#{@directory}")
    rescue SystemCallError
      nil
    end
  end

  private

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  # @return [Array<String>] of the processes that are to run
  def names = @names ||= control("status").lines.map { |line| line.split.first }

  # @return [String] empty where the process has ended
  def environment_of(pid)
    "\0#{File.binread("/proc/#{pid}/environ")}"
  rescue SystemCallError
    ""
  end

  def control(*words) = IO.popen(@environment, ["supervisorctl", "-c", CONFIGURATION, *words], err: File::NULL, &:read)

  def get(port, path) = Net::HTTP.start("127.0.0.1", port, open_timeout: 2, read_timeout: 5) { |http| http.get(path, { "authorization" => "Bearer #{@stack.token}" }) }

  # What is not acknowledged is sent again.
  def send_batch
    number = acknowledged.size
    events = Array.new(20) { |index| { specversion: "1.0", id: "#{number}-#{index}", source: "app", type: "ride_ended", subject: "customer:#{index}", time: "2026-05-03T10:00:00Z", data: { n: number } } }
    headers = { "authorization" => "Bearer #{@key}", "content-type" => "application/cloudevents-batch+json" }
    answer = Net::HTTP.post(URI("#{@stack.collector}/events"), JSON.generate(events), headers)
    @acknowledged.concat(events.map { |event| event[:id] }) if answer.is_a?(Net::HTTPOK)
  rescue *AWAY
    nil
  ensure
    sleep 0.1
  end
end
