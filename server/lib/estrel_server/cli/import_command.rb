# frozen_string_literal: true

module EstrelServer
  module CLI
    # Imports files from the command line, with a progress bar, and tells what became of their rows.
    class ImportCommand
      # @param kind [String] "events" or "profiles"
      # @param options [Hash] of the command
      # @param shell [#say]
      def initialize(kind, options, shell)
        @kind = kind
        @options = options
        @shell = shell
      end

      # @param files [Array<String>]
      # @return [void]
      def run(files)
        mapping = Importing::Mapping.new(mapping_json).to_h
        Import.settle_interrupted
        files.each { |file| import(file, mapping) }
        LedgerBuilding::Builder.new.refresh
      end

      private

      def mapping_json
        json = @options[:mapping] ? JSON.parse(File.read(@options[:mapping])) : {}
        json["columns"] = (json["columns"] || {}).merge(@options[:map].transform_keys { |ours| column_name(ours) })
        json["constants"] = (json["constants"] || {}).merge(@options.slice("source", "type"))
        json["custom_ids"] = Array(json["custom_ids"]) + @options[:custom_id]
        json["time_format"] = @options[:time_format] if @options[:time_format]
        %i[time_zone encoding sheet].each { |name| json[name.to_s] = @options[name] if @options[name] }
        json
      rescue JSON::ParserError, SystemCallError => e
        raise Error, "the mapping file cannot be read: #{e.message}"
      end

      # Kinds of identifiers can be given by their names alone, as the interface shows them.
      def column_name(ours)
        kinds = [*IdentifierKind::STANDARD, *@options[:custom_id]]
        kinds.include?(ours) ? "identifier.#{ours}" : ours
      end

      def import(file, mapping)
        raise Error, "there is no file #{file}" unless File.file?(file)

        import = Import.create!(kind: @kind, file_name: File.basename(file), path: File.expand_path(file),
                                mapping: mapping, bytes_total: File.size(file))
        cancelled = cancel_on_interrupt
        bar = bar(file)
        Importing::FileImporter.new(import) do |progress|
          progress.update_columns(cancel_requested: true) if cancelled.first
          told = { rows: progress.rows_read.to_s, row_rate: rate(progress).round.to_s }
          bar.advance(progress.bytes_done - bar.current, **told)
        end.run
        bar.finish if import.state == "done"
        report(import)
      end

      # Ctrl-C ends the import after the batch being stored; what was stored stays.
      def cancel_on_interrupt
        [false].tap { |flag| trap("INT") { flag[0] = true } }
      end

      def bar(file)
        TTY::ProgressBar.new("#{File.basename(file)} [:bar] :percent :rows rows, :row_rate rows/s, :eta left",
                             total: [File.size(file), 1].max, output: $stderr, frequency: 5)
      end

      def rate(import) = import.rows_read / [(import.finished_at || Time.now.utc) - import.started_at, 0.001].max

      def report(import)
        @shell.say format("%<file>s: %<state>s. %<read>d rows read, %<stored>d stored, %<known>d duplicates, " \
                          "%<rejected>d rejected (%<conflicts>d conflicts), %<rate>d rows/s",
                          file: import.file_name, state: import.state, read: import.rows_read, stored: import.stored,
                          known: import.already_known, rejected: import.rejected, conflicts: import.conflicts,
                          rate: rate(import))
        @shell.say "  #{import.error}" if import.error
        import.rejects.order(:id).limit(5).each { |reject| @shell.say "  row #{reject.row_number}: #{reject.reason}" }
        @shell.say "  all rejected rows: place Data in the interface" if import.rejected > 5
      end
    end
  end
end
