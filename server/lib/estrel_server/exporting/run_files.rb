# frozen_string_literal: true

module EstrelServer
  module Exporting
    # The files of a run: the rows that are exported, the manifest beside them, and what became of every member, from
    # which lists of people and later changes are told. Nothing has its final name before it is whole.
    class RunFiles
      # @param run [ExportRun]
      # @param settings [Settings]
      def initialize(run, settings = EstrelServer.settings)
        @run = run
        @settings = settings
      end

      # @return [String] of the rows
      def name
        slug = @run.export.name.downcase.gsub(/[^a-z0-9]+/, "-").gsub(/\A-|-\z/, "")[0, 60]
        "#{slug.empty? ? "export" : slug}-#{@run.as_of}-run-#{@run.id}.#{rows_file.ending}"
      end

      # @return [String] where the rows are
      def path = beside(@run.file_name || name)

      # @param frames [Enumerable<Polars::DataFrame>] see {Estrel::Exports::RowsFile#write}
      # @return [String] path
      # @raise [Estrel::Exports::Invalid, Disk::Full, SystemCallError]
      def write_rows(frames)
        checked = frames.lazy.map { |frame| frame.tap { Disk.check(@settings.var, frame.estimated_size) } }
        whole(beside(name)) { |part| rows_file.write(checked, part) }
      end

      # @param frame [Polars::DataFrame] `profile_id` and `step`
      # @return [void]
      def write_steps(frame)
        rows = Estrel::OnePiece.of(frame.select(%w[profile_id step]))
        whole(steps_path) { |part| rows.write_ipc(part, compression: "uncompressed") }
      end

      # @return [Polars::DataFrame] `profile_id` and `step` of every member
      # @raise [Error] where the file is gone
      def steps
        Polars.read_ipc(steps_path, memory_map: false)
      rescue Errno::ENOENT, Polars::Error
        raise Error, "the list of people exported by run #{@run.id} is no longer stored"
      end

      # @param step [String]
      # @return [Polars::Series] profile ids
      def ids(step) = steps.filter(Polars.col("step") == step)["profile_id"]

      # Takes people out of what is kept of the steps.
      #
      # @param profile_ids [Array<Integer>]
      # @return [Boolean] whether one of them was in it
      def forgotten?(profile_ids)
        return false unless File.exist?(steps_path)

        frame = steps
        theirs = frame["profile_id"].is_in(profile_ids)
        return false unless theirs.any

        write_steps(frame.filter(Polars.col("profile_id").is_in(profile_ids).is_not))
        true
      end

      # Removes the rows, and the people of a push. What became of whom stays, by number: later runs and the effect of
      # this one go by it.
      #
      # @return [void]
      def remove
        people = Dir.glob(beside("people-of-run-#{@run.id}{,-from-*}.jsonl"))
        FileUtils.rm_f([(path if @run.file_name), *people].compact)
      end

      # Puts the rows and the manifest into another directory, the rows last.
      #
      # @param directory [String]
      # @return [void]
      def copy_to(directory)
        whole(File.join(directory, "#{@run.file_name}.manifest.json")) { |part| File.write(part, @run.manifest) }
        whole(File.join(directory, @run.file_name)) { |part| FileUtils.cp(path, part) }
      end

      # @param name [String]
      # @return [String] path of a file kept beside the others
      def beside(name) = File.join(@settings.exports_directory, name)

      # Writes a file that has its name only once it is whole.
      #
      # @param path [String]
      # @yieldparam part [String] where to write
      # @return [String] path
      # @raise [SystemCallError]
      def whole(path)
        FileUtils.mkdir_p(File.dirname(path))
        part = "#{path}.part"
        yield part
        File.open(part, &:fsync)
        File.rename(part, path)
        path
      ensure
        FileUtils.rm_f(part) if part
      end

      private

      def rows_file = Estrel::Exports::RowsFile.new(@run.settings.file)

      def steps_path = beside("steps-of-run-#{@run.id}.arrow")
    end
  end
end
