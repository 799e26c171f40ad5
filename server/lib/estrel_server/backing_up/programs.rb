# frozen_string_literal: true

require "tempfile"

module EstrelServer
  module BackingUp
    # MariaDB's own programs, which write a database out as SQL and read it in again. They run as a user with all
    # rights, whose password stands in a file for as long as they do, where no list of processes shows it.
    class Programs
      # Rows one after the other in the order of their keys, one a line, so many in a statement, and all as they were at
      # one instant.
      DUMP = %w[mariadb-dump --single-transaction --quick --order-by-primary --net-buffer-length=1M --hex-blob
                --skip-comments --skip-dump-date].freeze
      private_constant :DUMP

      # @param settings [Settings]
      def initialize(settings)
        @settings = settings
        @connection = Database.new(settings).administrator_connection
      end

      # @yieldparam sql [IO]
      # @return [Object] the block's result
      # @raise [Error] with what the program said
      def dump(&)
        logs = @settings.binary_log_days.positive? ? ["--master-data=2"] : []
        run(DUMP, *logs, @connection[:database], mode: "rb", &)
      end

      # @yieldparam input [IO] for SQL
      # @return [Object] the block's result
      # @raise [Error]
      def load(&) = run(%w[mariadb --binary-mode], @connection[:database], mode: "wb", &)

      # What has changed since, from binary logs.
      #
      # @param files [Array<String>] of them, in order
      # @param position [Integer] in the first, from which on they are read
      # @param till [Time, nil] up to, but not including, which
      # @yieldparam sql [IO]
      # @raise [Error]
      def changes(files, position, till, &)
        stop = till ? ["--stop-datetime=#{till.utc.strftime("%F %T")}"] : []
        run(%w[mariadb-binlog --disable-log-bin], "--database=#{@connection[:database]}",
            "--start-position=#{position}", *stop, *files, mode: "rb", connected: false, &)
      end

      private

      def run(program, *arguments, mode:, connected: true, &work)
        Tempfile.create("estrel-said") do |said|
          result = with_credentials(connected) do |credentials|
            command = [program.first, *credentials, *program.drop(1), *arguments]
            IO.popen([{ "TZ" => "UTC" }, *command, { err: said.path }], mode, &work)
          end
          next result if Process.last_status.success?

          raise Error, "#{program.first} failed: #{File.readlines(said.path).last.to_s.strip}"
        end
      rescue Errno::ENOENT
        raise Error, "#{program.first} is not installed"
      rescue Errno::EPIPE
        raise Error, "#{program.first} gave up"
      end

      def with_credentials(connected)
        return yield([]) unless connected

        Tempfile.create("estrel-client") do |file|
          file.puts("[client]", *credentials.map { |name, value| "#{name}=\"#{escaped(value.to_s)}\"" })
          file.close
          yield ["--defaults-file=#{file.path}"]
        end
      end

      def escaped(text) = text.gsub(/["\\]/) { |character| "\\#{character}" }

      def credentials
        { "user" => @connection[:username], "password" => @connection[:password], "host" => @connection[:host],
          "port" => @connection[:port], "socket" => @connection[:socket], "default-character-set" => "utf8mb4",
          "max-allowed-packet" => "64M", "protocol" => @connection[:host] && "tcp", **tls }.compact
      end

      def tls
        return {} unless @connection[:ssl]

        ca = @connection[:ssl_ca]
        { "ssl" => "on", "ssl-ca" => ca, "ssl-verify-server-cert" => ca && "on" }
      end
    end
  end
end
