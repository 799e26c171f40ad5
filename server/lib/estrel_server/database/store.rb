# frozen_string_literal: true

module EstrelServer
  class Database
    # The connection of this process to the database, and the migrations.
    module Store
      MIGRATIONS = File.join(ROOT, "db/migrate")
      # What is raised where the database has gone away, or is not back yet, or has given a transaction up for another
      # one, of its own or of another of its servers. It can be tried again as a whole.
      AWAY = [ActiveRecord::ConnectionNotEstablished, ActiveRecord::ConnectionFailed, ActiveRecord::ConnectionTimeoutError,
              ActiveRecord::Deadlocked, Trilogy::BaseConnectionError].freeze

      # Seconds for which another process that brings the tables up to date is waited for.
      PATIENCE = 600
      private_constant :PATIENCE

      module_function

      # Connects Active Record, waiting for the database to come up.
      #
      # @param settings [Settings]
      # @return [void]
      def connect(settings = EstrelServer.settings)
        first = Database.new(settings.of(Workspaces::FIRST))
        first.wait_until_reachable
        ActiveRecord.default_timezone = :utc
        Settings::Secrets.configure(settings)
        ActiveSupport.on_load(:active_record_trilogyadapter) { prepend(Apart) && include(OnceHeard::Adapter) }
        ActiveRecord.query_transformers |= [Log::IN_SQL]
        Delayed::Worker.plugins |= [Workers::Told]
        Workspaces.first.establish(first.connection)
        Workspaces.current.establish(Database.new(settings).connection) unless Workspaces.current.first?
      end

      # Whether the tables are those this version knows, and written with our keys. Later tables have more, which is no
      # harm.
      #
      # @return [void]
      # @raise [Error] where they are earlier ones, or the keys are others
      def check
        context = ActiveRecord::MigrationContext.new(MIGRATIONS)
        there = context.current_version
        known = context.migrations.last.version
        raise Error, "the tables are those of an earlier version; run bin/estrel setup" if there < known

        Log.warning("the tables are those of a later version", known: known, there: there) if there > known
        Settings::Secrets.check(EstrelServer.settings)
      end

      # Brings the tables up to date, as their owner; safe to call from several processes at once.
      #
      # @param settings [Settings]
      # @return [void]
      # @raise [Error] where that fails
      def migrate(settings = EstrelServer.settings)
        database = Database.new(settings)
        place = Workspaces.current
        make_schema(database) unless place.first?
        place.establish(database.owner_connection)
        ActiveRecord::Migration.verbose = false
        bring_up_to_date
        let_accounts_be_elsewhere unless place.first?
        database.grant_use(ActiveRecord::Base.connection)
        place.establish(database.connection)
        Workspace.current
      end

      # Removes the schema of a workspace with all that is in it.
      #
      # @param settings [Settings] of the workspace, which is not the first one
      # @return [void]
      def remove(settings)
        raise ArgumentError, "the first workspace stays" if settings.workspace == Workspaces::FIRST

        database = Database.new(settings)
        on_server(database) { |client| client.query("DROP DATABASE IF EXISTS `#{database.schema}`") }
      end

      # Makes the schema of a workspace, without tables, where there is none.
      #
      # @param database [Database]
      # @return [void]
      def make_schema(database)
        on_server(database) do |client|
          client.query("CREATE DATABASE IF NOT EXISTS `#{database.schema}` CHARACTER SET utf8mb4 COLLATE utf8mb4_bin")
        end
      end

      def on_server(database)
        client = database.client(database.server_connection)
        yield(client)
      rescue Trilogy::ProtocolError => e
        raise Error, "the schema #{database.schema} could not be made or removed: #{e.message}"
      ensure
        client&.close
      end
      private_class_method :on_server

      # What belongs to somebody names an account of the first workspace's schema.
      def let_accounts_be_elsewhere
        connection = ActiveRecord::Base.connection
        Workspace::DATA_TABLES.each do |table|
          connection.foreign_keys(table).select { |key| key.to_table == "accounts" }
                    .each { |key| connection.remove_foreign_key(table, name: key.name) }
        end
      end
      private_class_method :let_accounts_be_elsewhere

      # Another process that is at it, as a command is while a workspace is being created, is waited for.
      def bring_up_to_date
        deadline = Process.clock_gettime(Process::CLOCK_MONOTONIC) + PATIENCE
        begin
          ActiveRecord::MigrationContext.new(MIGRATIONS).migrate
        rescue ActiveRecord::ConcurrentMigrationError
          raise if Process.clock_gettime(Process::CLOCK_MONOTONIC) > deadline

          sleep(0.2)
          retry
        end
      rescue StandardError => e
        raise Error, "the tables could not be brought up to date: #{(e.cause || e).message}"
      end
      private_class_method :bring_up_to_date
    end
  end
end
