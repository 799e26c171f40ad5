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
        ActiveSupport.on_load(:active_record_trilogyadapter) { prepend(Apart) }
        ActiveRecord.query_transformers |= [Log::IN_SQL]
        Delayed::Worker.plugins |= [Workers::Told]
        ActiveRecord::Base.establish_connection(database.connection)
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
        ActiveRecord::Base.establish_connection(database.owner_connection)
        ActiveRecord::Migration.verbose = false
        bring_up_to_date
        database.grant_use(ActiveRecord::Base.connection)
        ActiveRecord::Base.establish_connection(database.connection)
        Workspace.current
      end

      def bring_up_to_date
        ActiveRecord::MigrationContext.new(MIGRATIONS).migrate
      rescue StandardError => e
        raise Error, "the tables could not be brought up to date: #{(e.cause || e).message}"
      end
      private_class_method :bring_up_to_date
    end
  end
end
