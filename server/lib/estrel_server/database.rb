# frozen_string_literal: true

require "digest"
require "etc"

module EstrelServer
  # Estrel's own MariaDB: its data directory under `var`, a socket instead of a port, a generated password.
  #
  # {#run} replaces this process by the server (for the process manager); {#during} starts it for a block when it is
  # not running already. The server is stopped by its own process id. Where a MariaDB elsewhere is named
  # (`ESTREL_DATABASE_URL`), that one is used and nothing is started here.
  class Database
    NAME = "estrel"
    STAND_IN = "ferrowick_post"
    # Who owns the tables.
    OWNER = "estrel_owner"
    USER = "'#{NAME}'@'localhost'".freeze
    USERS_RIGHTS = "SELECT, INSERT, UPDATE, DELETE, CREATE TEMPORARY TABLES, LOCK TABLES"
    OWNERS_RIGHTS = "ALTER, CREATE, DROP, INDEX, REFERENCES, TRIGGER, CREATE VIEW, SHOW VIEW, CREATE ROUTINE, " \
                    "ALTER ROUTINE, EVENT, EXECUTE, DELETE HISTORY"
    private_constant :USER, :USERS_RIGHTS, :OWNERS_RIGHTS
    # Long IN lists are to be looked up in the index, not turned into a join, as the server would do from 1,000 values
    # on.
    VARIABLES = { in_predicate_conversion_threshold: 0 }.freeze
    # Where the database may have several servers: after a failover nothing is read, or written, before all that was
    # written elsewhere is there.
    OF_SEVERAL = { wsrep_sync_wait: 7 }.freeze
    # A connection whose other end is gone without a word is given up after some ten seconds.
    KEPT_ALIVE = { keepalive_enabled: true, keepalive_idle: 5, keepalive_interval: 2, keepalive_count: 3 }.freeze
    private_constant :VARIABLES, :KEPT_ALIVE
    # How a database elsewhere is spoken to, by what its address says of TLS.
    TLS = { "off" => {}, "required" => { ssl: true, ssl_mode: Trilogy::SSL_REQUIRED_NOVERIFY },
            "verify" => { ssl: true, ssl_mode: Trilogy::SSL_VERIFY_IDENTITY,
                          ssl_ca: "/etc/ssl/certs/ca-certificates.crt" } }.freeze
    # The longest path a Unix socket may have is about 107 bytes.
    MAX_SOCKET_PATH = 100

    # Connections of a process at most; a web process has as many threads.
    POOL = 20
    private_constant :POOL

    # Raised when the server does not come up.
    class NotRunning < Error; end

    # @param settings [Settings]
    def initialize(settings)
      @settings = settings
      @directory = settings.database_directory
    end

    # Connection settings for Active Record.
    #
    # @return [Hash]
    def connection
      { variables: elsewhere? ? { **VARIABLES, **OF_SEVERAL } : VARIABLES, adapter: "trilogy", encoding: "utf8mb4",
        pool: POOL, connect_timeout: 5, **(elsewhere? ? remote : local) }
    end

    # @return [Boolean] whether the server reads and writes files of this machine
    def beside? = !elsewhere?

    # The connection of whoever sets up the tables. Everybody else has no right to change their form, so that nobody
    # can do away with what keeps the log as it is.
    #
    # @return [Hash]
    def owner_connection = elsewhere? ? connection : connection.merge(username: OWNER, password: password_of(OWNER))

    # The connection of whoever may do everything, as backups need.
    #
    # @return [Hash]
    def administrator_connection = elsewhere? ? connection : owner_connection.merge(username: "root")

    # @return [Hash] of whoever makes and removes the schemas of workspaces; to none of them
    def server_connection = owner_connection.except(:database)

    # @return [String] of the workspace
    def schema = connection.fetch(:database)

    # @return [Hash] of the messaging stand-in's own database, beside Estrel's
    def stand_in_connection = owner_connection.merge(database: STAND_IN)

    # What the rest of Estrel may do with the tables: read and write rows, and empty those that hold the workspace's
    # data. To be called by the owner when the tables are as they should be.
    #
    # @param connection [#execute] of the owner
    # @return [void]
    def grant_use(connection)
      return if elsewhere?

      # Earlier versions gave them all.
      connection.execute("REVOKE #{OWNERS_RIGHTS} ON #{NAME}.* FROM #{USER}") if schema == NAME
      Workspace::DATA_TABLES.each { |table| connection.execute("GRANT DROP ON #{schema}.#{table} TO #{USER}") }
    end

    # Creates the data directory and the password when they are missing.
    #
    # @return [void]
    def prepare
      FileUtils.mkdir_p([@directory, temporary, @settings.exchange_directory], mode: 0o700)
      [NAME, OWNER].map { |name| password_file(name) }.each do |path|
        write_private(path, SecureRandom.hex(24)) unless File.exist?(path)
      end
      write_private(init_file, init_statements)
      install unless File.directory?(File.join(data, "mysql"))
    end

    # Becomes the database server; ends when it is told to with SIGTERM.
    def run
      return idle if elsewhere?

      prepare
      exec(*command)
    end

    # Runs the block with the server up, and stops the server afterwards if it was started here.
    #
    # @yieldreturn [Object]
    # @return [Object] the block's result
    def during
      return yield if reachable?

      pid = start
      begin
        yield
      ensure
        stop(pid)
      end
    end

    # @return [Integer] process id of a server that answers
    # @raise [NotRunning]
    def start
      raise NotRunning, "the database at ESTREL_DATABASE_URL cannot be reached" if elsewhere?

      prepare
      Process.spawn(*command, out: log_file, err: %i[child out], pgroup: true).tap { |pid| wait_until_reachable(pid) }
    end

    # @param pid [Integer] from {#start}
    # @return [void]
    def stop(pid)
      Process.kill("TERM", pid)
      Process.wait(pid)
    rescue Errno::ESRCH, Errno::ECHILD
      nil
    end

    # @param seconds [Integer]
    # @param pid [Integer, nil] a server started here: waiting ends when it is gone
    # @raise [NotRunning]
    def wait_until_reachable(pid = nil, seconds: 60)
      deadline = Process.clock_gettime(Process::CLOCK_MONOTONIC) + seconds
      until reachable?
        gone = pid && Process.wait(pid, Process::WNOHANG)
        if gone || Process.clock_gettime(Process::CLOCK_MONOTONIC) > deadline
          raise NotRunning, "the database did not come up; see #{log_file}"
        end

        sleep 0.1
      end
    end

    # @param connection [Hash]
    # @return [Trilogy] a connection apart from those of Active Record
    # @raise [SystemCallError, Trilogy::Error]
    def client(connection = self.connection)
      Trilogy.new(**connection.slice(:host, :port, :socket, :username, :password, :database, *TLS["verify"].keys))
    end

    # @return [Boolean] whether the server answers; the schema need not be there yet
    def reachable?
      client(connection.except(:database)).close
      true
    rescue SystemCallError, Trilogy::Error
      false
    end

    private

    def elsewhere? = !@settings.database_url.nil?

    def local = { socket: socket, username: NAME, password: password_of(NAME), database: schema_of(NAME) }

    # No name of a workspace has an underscore, so no two of them are the same.
    def schema_of(first)
      return first if @settings.workspace == Workspaces::FIRST

      "#{first}_#{@settings.workspace.tr("-", "_")}"
    end

    def remote
      uri = URI(@settings.database_url)
      { host: uri.hostname, port: uri.port || 3306, username: URI.decode_www_form_component(uri.user.to_s),
        password: URI.decode_www_form_component(uri.password.to_s), database: schema_of(uri.path.delete_prefix("/")),
        **KEPT_ALIVE, **tls(URI.decode_www_form(uri.query.to_s).to_h) }
    end

    # "required": nobody can listen; "verify": and it is the one that is meant.
    def tls(query)
      how = TLS.fetch(query["tls"] || "off")
      query["ca"] ? how.merge(ssl_ca: query["ca"]) : how
    end

    # For the process manager, which would start it again and again.
    def idle
      Signal.trap("TERM") { exit }
      sleep
    end

    def data = File.join(@directory, "data")

    def password_file(name) = File.join(@directory, name == NAME ? "password" : "owner-password")

    def init_file = File.join(@directory, "init.sql")

    def log_file = File.join(@directory, "server.log")

    def password_of(name) = File.read(password_file(name)).strip

    def socket
      path = File.join(@directory, "server.sock")
      return path if path.bytesize <= MAX_SOCKET_PATH

      File.join(Dir.tmpdir, "estrel-#{Digest::SHA256.hexdigest(path)[0, 16]}.sock")
    end

    def write_private(path, text)
      File.open(path, File::WRONLY | File::CREAT | File::TRUNC, 0o600) { |file| file.write(text) }
    end

    # Run by the server at every start, so a fresh data directory needs no further step.
    def init_statements
      <<~SQL
        CREATE DATABASE IF NOT EXISTS #{NAME} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
        CREATE USER IF NOT EXISTS #{USER} IDENTIFIED BY '#{password_of(NAME)}';
        CREATE USER IF NOT EXISTS '#{OWNER}'@'localhost' IDENTIFIED BY '#{password_of(OWNER)}';
        GRANT #{USERS_RIGHTS} ON #{NAME}.* TO #{USER};
        GRANT ALL ON #{NAME}.* TO '#{OWNER}'@'localhost' WITH GRANT OPTION;
        GRANT #{USERS_RIGHTS} ON `#{NAME}\\_%`.* TO #{USER};
        GRANT ALL ON `#{NAME}\\_%`.* TO '#{OWNER}'@'localhost' WITH GRANT OPTION;
        CREATE DATABASE IF NOT EXISTS #{STAND_IN} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
        GRANT ALL ON #{STAND_IN}.* TO '#{OWNER}'@'localhost';
        GRANT FILE ON *.* TO #{USER};
        ALTER USER 'root'@'localhost' IDENTIFIED BY '#{password_of(OWNER)}';
      SQL
    end

    def install
      output = File.join(@directory, "install.log")
      done = system("mariadb-install-db", "--no-defaults", "--datadir=#{data}", "--user=#{user}", "--skip-test-db",
                    "--auth-root-authentication-method=normal", out: output, err: %i[child out])
      raise NotRunning, "the database could not be set up; see #{output}" unless done
    end

    # Of its own: a server that starts clears away what another one has in a common one.
    def temporary = File.join(@directory, "temporary")

    def user = Etc.getpwuid.name

    # What it writes is for its own user only.
    UMASK = { "UMASK" => "0600", "UMASK_DIR" => "0700" }.freeze
    private_constant :UMASK

    # What has changed since a backup, where that is asked for.
    def logging
      days = @settings.binary_log_days
      return ["--skip-log-bin"] if days.zero?

      directory = File.join(@directory, "changes")
      FileUtils.mkdir_p(directory, mode: 0o700)
      ["--log-bin=#{File.join(directory, "changes")}", "--binlog-format=ROW", "--server-id=1", "--sync-binlog=1",
       "--binlog-expire-logs-seconds=#{days * 86_400}", "--log-bin-trust-function-creators=1"]
    end

    def command
      [UMASK, "mariadbd", "--no-defaults", "--datadir=#{data}", "--user=#{user}", "--socket=#{socket}",
       "--skip-networking", "--pid-file=#{File.join(@directory, "server.pid")}", "--init-file=#{init_file}",
       "--tmpdir=#{temporary}", "--secure-file-priv=#{@settings.exchange_directory}", "--character-set-server=utf8mb4",
       "--collation-server=utf8mb4_bin", "--max-allowed-packet=64M", "--innodb-log-file-size=512M", *logging,
       "--innodb-buffer-pool-size=#{@settings.database_memory_mb}M", "--sql-mode=TRADITIONAL"]
    end
  end
end
