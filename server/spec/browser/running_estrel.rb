# frozen_string_literal: true

require "fileutils"
require "json"
require "net/http"
require "socket"

ROOT = File.expand_path("../../..", __dir__) unless defined?(ROOT)

require_relative "../support/scratch"

# The whole application as `bin/start` runs it, with the demo freshly imported, on ports and data of its own.
class RunningEstrel
  # Suites that run side by side have one each.
  VAR = File.join(Scratch.place(ENV.fetch("ESTREL_SUITE", "test")), "browser")
  LOG = File.join(ROOT, "var/browser-#{ENV.fetch("ESTREL_SUITE", "test")}.log")
  # The demo before its first use.
  DEMO = File.join(ROOT, "var/browser-demo")
  # The code that makes it.
  SOURCES = %w[demo core/lib server/lib db].freeze

  # Makes the demo, unless there is one that the same code has made.
  def self.make_demo
    Scratch.made(DEMO, SOURCES) { system({ "ESTREL_VAR" => DEMO }, File.join(ROOT, "bin/estrel"), "setup", exception: true) }
  end

  def self.free_port = Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port.to_s }

  # Unless it has started.
  def start
    return if @pid

    FileUtils.rm_rf(VAR)
    FileUtils.mkdir_p(File.dirname(VAR))
    FileUtils.cp_r(DEMO, VAR, preserve: true)
    FileUtils.mkdir_p(File.join(VAR, "log"))
    @pid = Process.spawn("supervisord", "--nodaemon", "--configuration", File.join(ROOT, "config/supervisor.conf"),
                         chdir: ROOT, out: LOG, err: %i[child out])
    wait
    name_ports
  end

  def stop
    return unless @pid

    Process.kill("TERM", @pid)
    Process.wait(@pid)
    @pid = @token = @session = nil
  end

  # The demo as it was, after an example has removed it.
  def renew
    stop
    start
  end

  # For requests that do not come from the browser.
  def token
    @token ||= begin
      run = ->(*words) { IO.popen([File.join(ROOT, "bin/estrel"), "account", *words], &:read) }
      run.call("add", "specs@estrel.example", "--role", "administrator")
      run.call("token", "specs@estrel.example", "--scopes", "read", "write", "administer")[/et_\S+/]
    end
  end

  # Of the demo's own account, which needs a password once other data have come; another one where an example has ended it.
  def session
    @session = nil unless @session && signed_in?(@session)
    @session ||= cookie(post("/session/demo")) || session_by_link
  end

  # Sets its password.
  def session_by_link
    link = IO.popen([File.join(ROOT, "bin/estrel"), "account", "link", "demo@ferrowick.example"], &:read)[%r{/link/(\S+)}, 1]
    cookie(post("/session/link", key: link, password: "a password for the demo"))
  end

  def address = "http://127.0.0.1:#{ENV.fetch("ESTREL_PORT")}"

  private

  def post(path, **body) = Net::HTTP.post(URI("#{address}/api#{path}"), JSON.generate(body), "content-type" => "application/json")

  def signed_in?(session) = Net::HTTP.get_response(URI("#{address}/api/account"), "cookie" => "estrel_session=#{session}").is_a?(Net::HTTPOK)

  def cookie(answer) = answer["set-cookie"].to_s[/estrel_session=([^;]+)/, 1]

  # The demo's destination, and where that sends what becomes of messages, are on the ports of this one.
  def name_ports
    settings = EstrelServer.settings
    EstrelServer::Database::Store.connect
    EstrelServer::Destination.find_by!(name: "Ferrowick Post").update!(settings: { "url" => "http://127.0.0.1:#{settings.stand_in_port}/batches" })
    FerrowickPost.connect(EstrelServer::Database.new(settings).stand_in_connection)
    FerrowickPost::ServiceSetting.current.update!(collector: "http://127.0.0.1:#{settings.collector_port}/events")
  end

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
