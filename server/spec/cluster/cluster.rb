# frozen_string_literal: true

require "net/http"

# Three database servers in a cluster, and three of NATS where parts are answered, set up by the examples of docs/examples,
# and Estrel's processes on hosts of their own, each of which reaches the database by its own HAProxy.
class Cluster
  DATABASES = { one: 11, two: 12, three: 13 }.freeze
  ESTREL = { web: 21, collecting: 22, other: 23 }.freeze
  # They know no database, and each has two of three pieces of the ledger.
  HOLDERS = { first: 31, second: 32, third: 33 }.freeze
  HELD = { first: "0,1", second: "1,2", third: "0,2" }.freeze
  # Where each process runs. Two hosts are asked questions, of which one builds the ledger; exports asked of one are
  # carried out on the other; three hosts answer parts of the questions.
  PARTS = { web: [:web, "serve"], ledger: [:web, "ledger", "follow"], exports: [:web, "work", "exports"], collector: [:collecting, "collect"],
            other_web: [:other, "serve"], other_ledger: [:other, "ledger", "follow"],
            **HOLDERS.keys.to_h { |host| [host, [host, "answer", "--held"]] }, **HOLDERS.keys.to_h { |host| [:"#{host}_ledger", [host, "ledger", "mirror"]] } }.freeze
  # As the process manager does with one that ends.
  AGAIN = ["sh", "-c", "while true; do \"$@\"; sleep 1; done", "again"].freeze
  EXAMPLES = File.join(ROOT, "docs/examples")
  PORTS = { database: 3306, proxy: 3307, web: 4270, collector: 4271 }.freeze

  attr_reader :token

  def initialize(directory)
    @directory = directory
    FileUtils.rm_rf(directory)
    FileUtils.mkdir_p(directory)
    FileUtils.chmod(0o755, directory)
    @password = SecureRandom.hex(12)
    @hosts = Hosts.new({ **DATABASES, **ESTREL, **HOLDERS })
    @cut_off = []
  end

  def start
    DATABASES.each_key do |name|
      install(name)
      start_database(name, first: name == :one) && wait { joined?(name) }
    end
    write_proxy_conf
    ESTREL.each_key { |host| proxy(host) }
    HOLDERS.each_key { |host| start_nats(host) }
    wait { query("SELECT 1") }
    estrel("setup")
    @token = estrel("account", "add", "cluster@estrel.example", "--role", "administrator") && estrel("account", "token", "cluster@estrel.example", "--scopes", "read", "write", "administer")[/et_\S+/]
    PARTS.each_key { |part| start_estrel(part) }
    %i[web other].each { |host| wait { api("/session", host: host) } }
    wait { Net::HTTP.get_response(URI("#{collector}/health")) }
  end

  def start_nats(name) = @hosts.start(name, :nats, "nats-server", "-c", nats_conf(name), log: log("nats-#{name}"))

  def kill_nats(name) = @hosts.kill(name, :nats)

  def start_database(name, first: false)
    begins = first ? ["--wsrep-new-cluster"] : []
    @hosts.start(name, :database, "mariadbd", "--defaults-file=#{conf(name)}", *begins, log: log(name))
  end

  def kill_database(name) = @hosts.kill(name, :database)

  def start_estrel(part)
    host, *words = PARTS.fetch(part)
    @hosts.start(host, part, *AGAIN, File.join(ROOT, "bin/estrel"), *words, log: log(part), environment: environment(host))
  end

  def kill_estrel(part) = @hosts.kill(PARTS.fetch(part).first, part)

  # @return [Integer, nil] of the export of everybody; nil before anybody is known
  def export
    @audience ||= api("/audiences", { name: "Everybody", definition: { all: [] } })&.fetch("id")
    @export ||= api("/exports", { name: "Everybody", audience_id: @audience, rules: { columns: [{ take: "identifier:visitor" }] } })&.fetch("id")
  end

  # @return [Hash, nil] a run that has ended; nil before
  def ended(run) = api("/runs/#{run}")&.then { |found| found unless %w[queued running].include?(found["state"]) }

  # @return [Array<String>] identifiers in the file of a run
  def exported(run) = File.readlines(Dir[File.join(@directory, "web", "exports", "**", run.fetch("file_name"))].first, chomp: true).drop(1)

  # @return [Integer, nil] how many events a question counts; nil where it cannot be answered
  def counted(host) = api("/analyses/ranking", { from: "2026-05-01", as_of: "2026-05-31", counted_by: "times" }, host: host)&.dig("picture", "rows", 0, "times")

  def estrel(*words) = @hosts.run(:web, environment(:web), File.join(ROOT, "bin/estrel"), *words)

  # @return [Boolean] whether the server belongs to the majority and has all that was written
  def joined?(name) = asked(name, "SHOW STATUS LIKE 'wsrep_local_state'").to_a.dig(0, 1) == "4"

  # @return [Array<Array>, nil] the rows, from whichever server is written to; nil where none answers
  def query(statement)
    DATABASES.each_key.lazy.filter_map { |name| asked(name, statement) if joined?(name) }.first
  end

  # @return [Hash, nil] what the API answers; nil where it says that it cannot
  def api(path, body = nil, host: :web)
    uri = URI("http://#{@hosts.address(host)}:#{PORTS[:web]}/api#{path}")
    request = (body ? Net::HTTP::Post : Net::HTTP::Get).new(uri, "content-type" => "application/json", "authorization" => "Bearer #{@token}")
    request.body = JSON.generate(body) if body
    answer = Net::HTTP.start(uri.host, uri.port, open_timeout: 2, read_timeout: 30) { |http| http.request(request) }
    JSON.parse(answer.body) if answer.is_a?(Net::HTTPSuccess)
  rescue SystemCallError, EOFError, Timeout::Error
    nil
  end

  # @return [Hash{Symbol => Integer}] by host that can be asked, how many parts of its questions were answered elsewhere
  def elsewhere
    answering.to_h do |host|
      text = Net::HTTP.get(URI("http://#{@hosts.address(host)}:#{PORTS[:web]}/metrics"), { "authorization" => "Bearer #{@token}" })
      [host, text[/estrel_parts_total{answered="elsewhere"} ([\d.]+)/, 1].to_i] # linear: fixed text before digits
    end
  end

  def collector = "http://#{@hosts.address(:collecting)}:#{PORTS[:collector]}"

  def cut_off(name)
    @cut_off << name
    @hosts.cut_off(name)
  end

  # @return [Symbol] the host on which the ledger is built
  def leader
    wait do
      %i[web other].find { |host| EstrelServer::Parts::Leading.new(EstrelServer::Settings.from(environment(host))).here? }
    end
  end

  # @return [Array<Symbol>] the hosts that can be asked
  def answering = %i[web other] - @cut_off

  def slow(name, milliseconds) = @hosts.slow(name, milliseconds)

  # @return [Boolean] whether the way to a host takes long
  def slow? = @hosts.slow?

  def mend(name)
    @cut_off.delete(name)
    @hosts.mend(name)
  end

  def stop
    @hosts.remove
  end

  def wait(seconds = 60)
    deadline = Process.clock_gettime(Process::CLOCK_MONOTONIC) + seconds
    until (found = yield)
      raise "waited #{seconds} seconds; see #{@directory}" if Process.clock_gettime(Process::CLOCK_MONOTONIC) > deadline

      sleep 0.1
    end
    found
  rescue SystemCallError, EOFError, Timeout::Error
    sleep 0.1
    retry
  end

  private

  def log(name) = File.join(@directory, "#{name}.log")

  def conf(name) = File.join(@directory, "#{name}.cnf")

  def environment(host)
    directory = File.join(@directory, host.to_s)
    near = HOLDERS.keys.rotate([*ESTREL.keys, *HOLDERS.keys].index(host))
    nats = near.map { |name| "nats://estrel:#{@password}@#{@hosts.address(name)}:4222" }.join(",")
    { "ESTREL_VAR" => directory, "ESTREL_DATABASE_URL" => "mysql://estrel:#{@password}@127.0.0.1:#{PORTS[:proxy]}/estrel", "ESTREL_BIND" => @hosts.address(host), "ESTREL_DEMO" => "off", "APP_ENV" => "production",
      "ESTREL_NATS_URL" => nats, "ESTREL_PARTS" => "3", "ESTREL_PARTS_FROM_EVENTS" => "0", "ESTREL_PARTS_HELD" => HELD.fetch(host, "all"),
      "ESTREL_WEB_PROCESSES" => "1", "ESTREL_SECRETS_KEY" => "0" * 64, "ESTREL_ERASURE_KEY" => "1" * 64, "ESTREL_HOSTS" => @hosts.address(host) }
  end

  # As the example has it, with a directory and the rights of its own, and little memory.
  def install(name)
    data = File.join(@directory, name.to_s)
    system("mariadb-install-db", "--no-defaults", "--datadir=#{data}", "--user=mysql", "--skip-test-db", "--auth-root-authentication-method=normal", out: log(name), err: %i[child out], exception: true)
    users = { "estrel" => "GRANT ALL ON estrel.* TO 'estrel'@'%'", "check_estrel" => "SELECT 1" }.map { |user, grant| "CREATE USER IF NOT EXISTS '#{user}'@'%' IDENTIFIED BY '#{@password}';\n#{grant};" }
    File.write(File.join(@directory, "init.sql"), "CREATE DATABASE IF NOT EXISTS estrel CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;\n#{users.join("\n")}\n")
    example = File.read(File.join(EXAMPLES, "galera.cnf")).gsub("= #{Hosts::NET}.11", "= #{@hosts.address(name)}").sub("pool_size = 1G", "pool_size = 128M").sub("log_file_size = 512M", "log_file_size = 64M")
    File.write(conf(name), "#{example}datadir = #{data}\nsocket = #{data}/socket\npid_file = #{data}/pid\nuser = mysql\ntmpdir = #{data}\n#{"init_file = #{@directory}/init.sql\n" if name == :one}")
  end

  def nats_conf(name)
    path = File.join(@directory, "nats-#{name}.conf")
    addresses = [11, 12, 13].zip(HOLDERS.keys).to_h { |number, host| ["#{Hosts::NET}.#{number}", @hosts.address(host)] }
    lines = File.readlines(File.join(EXAMPLES, "nats.conf")).map do |line|
      line.gsub(Regexp.union(addresses.keys)) { |address| line.include?("routes:") ? addresses.fetch(address) : @hosts.address(name) }
    end
    File.write(path, lines.join.sub("change-me", @password))
    path
  end

  # For the hosts' proxies.
  def write_proxy_conf
    check = File.join(@directory, "galera-check")
    File.write(check, File.read(File.join(EXAMPLES, "galera-check")).gsub("/etc/haproxy/galera-check.cnf", "#{check}.cnf"), perm: 0o755)
    File.write("#{check}.cnf", "[client]\npassword=#{@password}\n")
    File.write(proxy_conf, File.read(File.join(EXAMPLES, "haproxy.cfg")).sub("/etc/haproxy/galera-check\n", "#{check}\n"))
  end

  def proxy_conf = File.join(@directory, "haproxy.cfg")

  def proxy(host) = @hosts.start(host, :proxy, "haproxy", "-db", "-f", proxy_conf, log: log("proxy-#{host}"))

  def asked(name, statement)
    client = Trilogy.new(host: @hosts.address(name), username: "estrel", password: @password, database: "estrel", connect_timeout: 1, read_timeout: 5)
    client.query(statement).to_a
  rescue Trilogy::Error, SystemCallError
    nil
  ensure
    client&.close
  end
end
