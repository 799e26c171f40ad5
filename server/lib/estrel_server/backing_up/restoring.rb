# frozen_string_literal: true

module EstrelServer
  module BackingUp
    # Fills an empty installation with a backup, and with what binary logs say has changed since.
    #
    # Exports and pages do not go on where they were: what has been sent since the backup is not known here, so runs
    # that were under way end, and times that have passed are not made up for.
    class Restoring
      UNFINISHED = "it was under way when the backup was made, and was not gone on with when that was restored"
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
        later = logs ? logs_in(logs, till) : []
        check_empty
        Keys.new(@settings).restore(keys) if keys
        Database.new(@settings).during do
          load
          follow(later, till) if later.any?
          settle
          Workspace.current.update!(keys_digest: nil) unless keys
        end
        files
        @copy.manifest
      end

      # Loads the rows into a database that is up, and nothing else.
      #
      # @return [void]
      # @raise [Error]
      def load
        check_no_tables
        indexes = LateIndexes.new
        Programs.new(@settings).load do |input|
          input << HURRY if @settings.database_url.nil?
          unpacked do |sql|
            sql.each_line(Tables::STATEMENT_END) { |one| indexes.instead(one).each { |statement| input << statement } }
          end
        end
      end

      private

      def unpacked(&)
        IO.popen(["gzip", "-dc", @copy.path(Copy::SQL)], "rb", &)
        raise Error, "gzip gave up" unless Process.last_status.success?
      end

      def check_empty
        FileUtils.mkdir_p(@settings.var)
        used = %w[database ledger uploads exports].map { |name| File.join(@settings.var, name) }
                                                  .select { |path| File.exist?(path) }
        return if used.empty?

        raise Error, "there is something in #{@settings.var} already; name an empty directory by ESTREL_VAR"
      end

      def check_no_tables
        client = Database.new(@settings).client
        raise Error, "the database has tables already; name an empty one" if client.query("SHOW TABLES").any?
      ensure
        client&.close
      end

      # From the one the backup was made at.
      def logs_in(directory, till)
        at = @copy.manifest["log"]
        raise Error, "no binary logs were kept when the backup was made, so there is none to follow" unless at
        raise Error, "the backup was made after that time" if till && till < Time.iso8601(@copy.manifest["made_at"])

        files = Dir[File.join(directory, "#{File.basename(at["file"], ".*")}.[0-9]*")]
        files = files.sort.drop_while { |file| File.basename(file) != at["file"] }
        raise Error, "#{directory} does not hold #{at["file"]}, at which the backup was made" if files.empty?

        files
      end

      def follow(files, till)
        programs = Programs.new(@settings)
        programs.changes(files, @copy.manifest["log"]["position"], till) do |sql|
          programs.load { |input| IO.copy_stream(sql, input) }
        end
      end

      def settle
        Database::Store.connect(@settings)
        Database::Store.migrate(@settings)
        moved_uploads
        ExportRun.where.not(under_way: nil).find_each { |run| run.finish("cancelled", error: UNFINISHED) }
        PageRun.under_way.find_each { |run| run.finish("failed", error: UNFINISHED) }
        Delayed::Job.where(queue: "exports").delete_all
        Delayed::Job.update_all(locked_at: nil, locked_by: nil)
        [Export, Page].each { |model| model.kept.find_each(&:schedule_next) }
      end

      # Files that wait to be imported lie elsewhere now.
      def moved_uploads
        was = File.join(@copy.manifest["uploads"], "")
        Import.where("path LIKE ?", "#{Import.sanitize_sql_like(was)}%").find_each do |import|
          import.update_columns(path: File.join(@settings.uploads_directory, import.path.delete_prefix(was)))
        end
      end

      def files
        Copy::KEPT.select { |name| File.directory?(@copy.path(name)) }
                  .each { |name| FileUtils.cp_r(@copy.path(name), @settings.var, preserve: true) }
      end
    end
  end
end
