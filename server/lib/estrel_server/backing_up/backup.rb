# frozen_string_literal: true

module EstrelServer
  module BackingUp
    # Copies everything that cannot be made anew while Estrel goes on working. The rows are those of one instant for
    # each workspace.
    class Backup
      # @param settings [Settings]
      def initialize(settings)
        @settings = settings
      end

      # @param directory [String] a new or an empty one
      # @param keys [String, nil] file for the keys, which should be kept apart from the rest
      # @return [Hash] the manifest, see {Copy}
      # @raise [Error]
      def write(directory, keys: nil)
        copy = Copy.new(directory)
        raise Error, "#{copy.directory} is not empty" if File.exist?(copy.directory) && !Dir.empty?(copy.directory)

        fill(copy, keys)
        copy.manifest
      rescue SystemCallError => e
        raise Error, "the backup was not finished: #{e.message}"
      end

      private

      def fill(copy, keys)
        FileUtils.mkdir_p(copy.directory)
        Disk.check(copy.directory)
        Keys.new(@settings).write(keys) if keys
        workspaces = [Workspaces::FIRST, *InstalledWorkspace.where(state: %w[open archived]).pluck(:name)]
        all = workspaces.map { |name| @settings.of(name) }
        # Before as well as after the rows: what these speak of may have come or gone meanwhile.
        all.each { |settings| files(copy, settings) }
        at = Time.now.utc
        first, *others = all.map { |settings| [settings.workspace, rows(copy, settings)] }
        all.each { |settings| files(copy, settings) }
        copy.finish("made_at" => at.iso8601(6), "schema" => schema, **first.last, "workspaces" => others.to_h)
      end

      def schema = ActiveRecord::Base.connection.select_value("SELECT MAX(version) FROM schema_migrations")

      def rows(copy, settings)
        tables = Tables.new
        path = copy.path(Copy::SQL, settings.workspace)
        FileUtils.mkdir_p(File.dirname(path))
        Programs.new(settings).dump { |sql| pack(path) { |gzip| keep(sql, tables, gzip) } }
        { "tables" => tables.to_h, "uploads" => settings.uploads_directory, "log" => tables.log }
      end

      def keep(sql, tables, gzip)
        sql.each_line(Tables::STATEMENT_END) do |statement|
          tables.read(statement)
          gzip << statement
        end
      end

      # By a process of its own, since there is much of it.
      def pack(path, &)
        IO.popen(%w[gzip -1], "wb", out: path, &)
        raise Error, "gzip gave up" unless Process.last_status.success?
      end

      def files(copy, settings)
        Copy::KEPT.each do |name|
          from = File.join(settings.place, name)
          Dir.glob("**/*", base: from).each do |file|
            file(File.join(from, file), copy.path(File.join(name, file), settings.workspace))
          end
        end
      end

      # One that is gone again belongs to what comes after.
      def file(from, to)
        return if !File.file?(from) || (File.exist?(to) && alike?(File.stat(from), File.stat(to)))

        FileUtils.mkdir_p(File.dirname(to))
        FileUtils.cp(from, to, preserve: true)
      rescue Errno::ENOENT
        FileUtils.rm_f(to)
      end

      # One that was being written has grown.
      def alike?(one, other) = [one.size, one.mtime] == [other.size, other.mtime]
    end
  end
end
