# frozen_string_literal: true

module EstrelServer
  module Exporting
    # Carries out one run: finds the members as of the run's date, writes the whole file or nothing, and records what
    # came out.
    class Runner
      # @param run [ExportRun]
      # @param ledger [Estrel::Ledger]
      # @param settings [Settings]
      def initialize(run, ledger = EstrelServer.ledger, settings = EstrelServer.settings)
        @run = run
        @ledger = ledger
        @settings = settings
      end

      # @return [ExportRun]
      def run
        return @run if @run.state == "done"

        @run.update!(state: "running")
        frame = rows
        path = write(frame)
        @run.update!(state: "done", row_count: frame.height, bytes: File.size(path), finished_at: Time.now.utc,
                     sha256: Digest::SHA256.file(path).hexdigest, file_name: File.basename(path))
        @run
      rescue Error, Estrel::Error, SystemCallError => e
        @run.update!(state: "failed", error: e.message, finished_at: Time.now.utc)
        @run
      end

      # @return [String] where the finished file lies
      def path = File.join(@settings.exports_directory, file_name)

      private

      def export = @run.export

      def file_name
        slug = export.audience.name.downcase.gsub(/[^a-z0-9]+/, "-").gsub(/\A-|-\z/, "")[0, 60]
        "#{slug.empty? ? "audience" : slug}-#{@run.as_of}-run-#{@run.id}.#{export.format}"
      end

      def rows
        generation = @ledger.current
        policy = Asking.policy(@run.policy, generation.catalogue)
        definition = Asking.definition(@run.audience_version.definition, generation.catalogue)
        question = Question.new(generation, as_of: @run.as_of, policy: policy, limited: false)
        columns = Columns.new(generation)
        columns.check(export.chosen_columns)
        columns.frame(export.chosen_columns, question.evaluator.members(definition), question)
      end

      # Nothing is visible under the final name before it is whole.
      def write(frame)
        FileUtils.mkdir_p(@settings.exports_directory)
        temporary = "#{path}.part"
        File.open(temporary, "wb") do |file|
          Format.for(export).write(frame, file)
          file.fsync
        end
        File.rename(temporary, path)
        path
      ensure
        FileUtils.rm_f(temporary) if temporary
      end
    end
  end
end
