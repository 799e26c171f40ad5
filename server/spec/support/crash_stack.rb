# frozen_string_literal: true

require "net/http"

# Parts of Estrel as processes of their own, with a database and a data directory of their own, to be killed.
class CrashStack
  # Set up, with an account that administers, for all to begin with.
  PREPARED = File.join(ROOT, "var/crash-prepared")
  TOKEN = "token"
  private_constant :PREPARED, :TOKEN

  attr_reader :settings, :environment, :token

  def initialize(directory, **environment)
    FileUtils.rm_rf(directory)
    FileUtils.mkdir_p(directory)
    ports = %w[ESTREL_PORT ESTREL_COLLECTOR_PORT ESTREL_STAND_IN_PORT].to_h { |name| [name, Addrinfo.tcp("127.0.0.1", 0).bind { |socket| socket.local_address.ip_port.to_s }] }
    @environment = { "ESTREL_VAR" => directory, "ESTREL_DEMO" => "off", "APP_ENV" => "production", "ESTREL_WEB_PROCESSES" => "1", "ESTREL_ANSWERING_PROCESSES" => "1", **ports, **environment.transform_keys(&:to_s) }
    settle({})
    @log = File.join(directory, "log")
    @pids = {}
  end

  # Further settings, before anything is started.
  def settle(environment)
    @environment.merge!(environment)
    @settings = EstrelServer::Settings.from(@environment)
    @database = EstrelServer::Database.new(@settings)
  end

  def start(*parts)
    Scratch.made(PREPARED, %w[server/lib db]) { self.class.new(PREPARED).prepare }
    FileUtils.cp_r(File.join(PREPARED, "."), settings.var, preserve: true)
    @token = File.read(File.join(settings.var, TOKEN))
    restart(:database)
    parts.each { |part| restart(part) }
  end

  def prepare
    estrel("setup")
    restart(:database)
    estrel("account", "add", "crash@estrel.example", "--role", "administrator")
    token = estrel("account", "token", "crash@estrel.example", "--scopes", "read", "write", "administer")[/et_\S+/]
    File.write(File.join(settings.var, TOKEN), token, perm: 0o600)
    stop
  end

  # Starts a part, after it was killed too; waits for those that are waited for by whoever speaks to them.
  def restart(part)
    @pids[part] = case part
                  when :database then @database.start
                  when :collector then listening(estrel_process("collect"), collector)
                  when :web then listening(estrel_process("serve"), web)
                  else forked(part)
                  end
  end

  def kill(part)
    pid = @pids.delete(part)
    Process.kill("KILL", part == :web ? -pid : pid)
    Process.wait(pid) if %i[database collector web].include?(part)
  rescue Errno::ESRCH
    nil
  end

  def stop
    (@pids.keys - [:database]).each { |part| kill(part) }
    @zygote&.close
    @database.stop(@pids[:database])
  end

  def collector = "http://127.0.0.1:#{settings.collector_port}"

  def web = "http://127.0.0.1:#{settings.port}"

  def stand_in = "http://127.0.0.1:#{settings.stand_in_port}"

  def estrel(*words) = IO.popen(@environment, [File.join(ROOT, "bin/estrel"), *words], &:read)

  def query(statement, database: EstrelServer::Database::NAME) = client(database) { |client| client.query(statement).to_a }

  # Runs the block while a transaction that began with these statements is open.
  def holding(*statements)
    client(EstrelServer::Database::NAME) do |client|
      ["BEGIN", *statements].each { |statement| client.query(statement) }
      yield
    end
  end

  # @return [Hash] what the API answers; nil where it is not there
  def api(method, path, body = nil)
    uri = URI("#{web}/api#{path}")
    request = Net::HTTP.const_get(method.to_s.capitalize).new(uri, "content-type" => "application/json", "authorization" => "Bearer #{@token}")
    request.body = JSON.generate(body) if body
    JSON.parse(Net::HTTP.start(uri.host, uri.port) { |http| http.request(request) }.body)
  rescue SystemCallError, EOFError, Net::OpenTimeout, Net::ReadTimeout, JSON::ParserError
    nil
  end

  private

  def client(database)
    connection = database == EstrelServer::Database::STAND_IN ? @database.stand_in_connection : @database.connection
    client = Trilogy.new(**connection.slice(:socket, :username, :password), database: database)
    yield client
  ensure
    client&.close
  end

  def estrel_process(command) = Process.spawn(@environment, File.join(ROOT, "bin/estrel"), command, out: [@log, "a"], err: %i[child out], pgroup: true)

  def listening(pid, address)
    300.times do
      Net::HTTP.get_response(URI("#{address}/health"))
      return pid
    rescue SystemCallError, EOFError
      sleep 0.1
    end
    raise "#{address} did not come up: #{File.read(@log)}"
  end

  # [:worker, 2] or :stand_in
  def forked(part)
    @zygote ||= IO.popen(@environment, ["bundle", "exec", "ruby", File.join(ROOT, "server/spec/support/zygote.rb")], "r+", err: [@log, "a"])
    @zygote.puts(Array(part).join(" "))
    Integer(@zygote.gets)
  end
end
