# frozen_string_literal: true

module EstrelServer
  class Database
    # The connection of this process to the database, and the migrations.
    module Store
      MIGRATIONS = File.join(ROOT, "db/migrate")
      # What is raised where the database has gone away, or is not back yet.
      AWAY = [ActiveRecord::ConnectionNotEstablished, ActiveRecord::ConnectionFailed, ActiveRecord::ConnectionTimeoutError,
              Trilogy::BaseConnectionError].freeze

      module_function

      # Connects Active Record, waiting for the database to come up.
      #
      # @param settings [Settings]
      # @return [void]
      def connect(settings = EstrelServer.settings)
        database = Database.new(settings)
        database.wait_until_reachable
        ActiveRecord.default_timezone = :utc
        Settings::Secrets.configure(settings)
        ActiveRecord.query_transformers |= [Log::IN_SQL]
        Delayed::Worker.plugins |= [Workers::Told]
        ActiveRecord::Base.establish_connection(database.connection)
      end

      # Whether the tables are those this version knows. Later ones have more, which is no harm.
      #
      # @return [void]
      # @raise [Error] where they are earlier ones
      def check_version
        context = ActiveRecord::MigrationContext.new(MIGRATIONS)
        there = context.current_version
        known = context.migrations.last.version
        raise Error, "the tables are those of an earlier version; run bin/estrel setup" if there < known

        Log.warning("the tables are those of a later version", known: known, there: there) if there > known
      end

      # Brings the tables up to date, as their owner; safe to call from several processes at once.
      #
      # @param settings [Settings]
      # @return [void]
      def migrate(settings = EstrelServer.settings)
        database = Database.new(settings)
        ActiveRecord::Base.establish_connection(database.owner_connection)
        ActiveRecord::Migration.verbose = false
        ActiveRecord::MigrationContext.new(MIGRATIONS).migrate
        database.grant_use(ActiveRecord::Base.connection)
        ActiveRecord::Base.establish_connection(database.connection)
        Workspace.current
      end
    end
  end
end
