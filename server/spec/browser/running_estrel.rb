# frozen_string_literal: true

require "digest"
require "fileutils"
require "json"
require "net/http"
require "socket"

ROOT = File.expand_path("../../..", __dir__) unless defined?(ROOT)

# The whole application as `bin/start` runs it, with the demo freshly imported, on a port and data of its own.
class RunningEstrel
  VAR = File.join(ROOT, "var/browser")
  LOG = File.join(ROOT, "var/browser.log")
  # The demo before its first use.
  DEMO = File.join(ROOT, "var/browser-demo")
  # The code that makes it.
  SOURCES = %w[demo core/lib server/lib db].freeze

  # Makes the demo, unless there is one that the same code has made.
  def self.make_demo
    digest = Digest::SHA256.hexdigest(SOURCES.flat_map { |name| Dir[File.join(ROOT, name, "**/*.*")] }.select { |path| File.file?(path) }.sort.map { |path| Digest::SHA256.file(path).hexdigest }.join)
    stamp = File.join(DEMO, "made-by")
    return if File.file?(stamp) && File.read(stamp) == digest

    FileUtils.rm_rf([DEMO, VAR])
    ports = %w[ESTREL_COLLECTOR_PORT ESTREL_STAND_IN_PORT].to_h { |name| [name, free_port] }
    system({ "ESTREL_VAR" => VAR, **ports }, File.join(ROOT, "bin/estrel"), "setup", exception: true)
    FileUtils.mv(VAR, DEMO)
    File.write(File.join(DEMO, "ports"), JSON.generate(ports))
    File.write(stamp, digest)
  end

  def self.free_port = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port.to_s }

  # The demo names them: where its destination is, and where that sends what becomes of messages.
  #
  # @return [Hash{String => String}] by variable
  def self.ports = JSON.parse(File.read(File.join(DEMO, "ports")))

  def start
    FileUtils.rm_rf(VAR)
    FileUtils.cp_r(DEMO, VAR, preserve: true)
    FileUtils.mkdir_p(File.join(VAR, "log"))
    @pid = Process.spawn("supervisord", "--nodaemon", "--configuration", File.join(ROOT, "config/supervisor.conf"),
                         chdir: ROOT, out: LOG, err: %i[child out])
    wait
  end

  def stop
    return unless @pid

    Process.kill("TERM", @pid)
    Process.wait(@pid)
  end

  # For requests that do not come from the browser.
  def token
    @token ||= begin
      run = ->(*words) { IO.popen([File.join(ROOT, "bin/estrel"), "account", *words], &:read) }
      run.call("add", "specs@estrel.example", "--role", "administrator")
      run.call("token", "specs@estrel.example", "--scopes", "read", "write", "administer")[/et_\S+/]
    end
  end

  # The demo's own account, by a link.
  def session
    @session ||= begin
      link = IO.popen([File.join(ROOT, "bin/estrel"), "account", "link", "demo@ferrowick.example"], &:read)[%r{/link/(\S+)}, 1]
      answer = Net::HTTP.post(URI("#{address}/api/session/link"), JSON.generate(key: link, password: "a password for the demo"), "content-type" => "application/json")
      answer["set-cookie"][/estrel_session=([^;]+)/, 1]
    end
  end

  def address = "http://127.0.0.1:#{ENV.fetch("ESTREL_PORT")}"

  private

  def wait
    600.times do
      return if Net::HTTP.get_response(URI("#{address}/api/session")).is_a?(Net::HTTPOK)
    rescue SystemCallError
      sleep 0.1
    end
    raise "Estrel did not start, see #{LOG} and #{VAR}/log"
  end
end

# While other checks run.
RunningEstrel.make_demo if $PROGRAM_NAME == __FILE__
