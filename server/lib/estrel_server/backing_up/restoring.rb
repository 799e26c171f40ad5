# frozen_string_literal: true

module EstrelServer
  module BackingUp
    # Fills an empty installation with a backup, and with what binary logs say has changed since.
    #
    # Exports and pages do not go on where they were: what has been sent since the backup is not known here, so runs
    # that were under way end, and times that have passed are not made up for.
    class Restoring
      UNFINISHED = "in progress when the backup was made; cancelled on restore"
      # Until the server stops: what is lost with it now is loaded once more anyway.
      HURRY = "SET GLOBAL innodb_flush_log_at_trx_commit = 0, GLOBAL innodb_io_capacity = 5000;\n"
      private_constant :UNFINISHED, :HURRY

      # @param settings [Settings] of the empty installation
      # @param copy [Copy]
      def initialize(settings, copy)
        @settings = settings
        @copy = copy
      end

      # @param keys [String, nil] file with the keys
      # @param logs [String, nil] directory of the binary logs
      # @param till [Time, nil] up to when they are followed
      # @return [Hash] the manifest
      # @raise [Error]
      def carry_out(keys: nil, logs: nil, till: nil)
        @copy.check
        later = each_settings { |settings| logs ? logs_in(logs, till, settings.workspace) : [] }
        check_empty
        Keys.new(@settings).restore(keys) if keys
        Database.new(@settings).during do
          load
          each_settings.zip(later) { |settings, files| follow(settings, files, till) if files.any? }
          settle(keys)
        end
        each_settings { |settings| files(settings) }
        @copy.manifest
      end

      # Loads the rows of all workspaces into a database that is up, and nothing else.
      #
      # @return [void]
      # @raise [Error]
      def load
        each_settings do |settings|
          Database::Store.make_schema(Database.new(settings)) unless settings.workspace == Workspaces::FIRST
          check_no_tables(settings)
          indexes = LateIndexes.new
          Programs.new(settings).load do |input|
            input << HURRY if @settings.database_url.nil?
            unpacked(settings) do |sql|
              sql.each_line(Tables::STATEMENT_END) { |one| indexes.instead(one).each { |statement| input << statement } }
            end
          end
        end
      end

      private

      # The settings of each workspace, or what the block makes of them.
      def each_settings
        @copy.workspaces.map { |name| @settings.of(name) }.map { |settings| block_given? ? yield(settings) : settings }
      end

      def unpacked(settings, &)
        IO.popen(["gzip", "-dc", @copy.path(Copy::SQL, settings.workspace)], "rb", &)
        raise Error, "gzip gave up" unless Process.last_status.success?
      end

      def check_empty
        FileUtils.mkdir_p(@settings.var)
        used = %w[database ledger uploads exports workspaces].map { |name| File.join(@settings.var, name) }
        used = used.select { |path| File.exist?(path) }
        return if used.empty?

        raise Error, "there is something in #{@settings.var} already; name an empty directory by ESTREL_VAR"
      end

      def check_no_tables(settings)
        client = Database.new(settings).client
        raise Error, "the database has tables already; name an empty one" if client.query("SHOW TABLES").any?
      ensure
        client&.close
      end

      # From the one the backup was made at.
      def logs_in(directory, till, workspace)
        at = @copy.facts(workspace)["log"]
        raise Error, "binary logging was off when the backup was made, so there are no logs to replay" unless at
        raise Error, "the backup was made after that time" if till && till < Time.iso8601(@copy.manifest["made_at"])

        files = Dir[File.join(directory, "#{File.basename(at["file"], ".*")}.[0-9]*")]
        files = files.sort.drop_while { |file| File.basename(file) != at["file"] }
        raise Error, "#{directory} does not hold #{at["file"]}, at which the backup was made" if files.empty?

        files
      end

      def follow(settings, files, till)
        programs = Programs.new(settings)
        programs.changes(files, @copy.facts(settings.workspace)["log"]["position"], till) do |sql|
          programs.load { |input| IO.copy_stream(sql, input) }
        end
      end

      # In the first one it is said which others there are.
      def settle(keys)
        Database::Store.connect(@settings)
        @copy.workspaces.each do |name|
          Workspaces.within(Workspaces.place(name)) { settle_rows(@settings.of(name), keys) }
        end
      end

      def settle_rows(settings, keys)
        Database::Store.migrate(settings)
        moved_uploads(settings)
        ExportRun.where.not(under_way: nil).find_each { |run| run.finish("cancelled", error: UNFINISHED) }
        PageRun.under_way.find_each { |run| run.finish("failed", error: UNFINISHED) }
        Delayed::Job.where(queue: "exports").delete_all
        Delayed::Job.update_all(locked_at: nil, locked_by: nil)
        [Export, Page].each { |model| model.kept.find_each(&:schedule_next) }
        Workspace.current.update!(keys_digest: nil) unless keys
      end

      # Files that wait to be imported lie elsewhere now.
      def moved_uploads(settings)
        was = File.join(@copy.facts(settings.workspace)["uploads"], "")
        Import.where("path LIKE ?", "#{Import.sanitize_sql_like(was)}%").find_each do |import|
          import.update_columns(path: File.join(settings.uploads_directory, import.path.delete_prefix(was)))
        end
      end

      def files(settings)
        Copy::KEPT.each do |name|
          kept = @copy.path(name, settings.workspace)
          next unless File.directory?(kept)

          FileUtils.mkdir_p(settings.place)
          FileUtils.cp_r(kept, settings.place, preserve: true)
        end
      end
    end
  end
end
