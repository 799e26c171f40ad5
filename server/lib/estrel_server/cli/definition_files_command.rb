# frozen_string_literal: true

module EstrelServer
  module CLI
    # Definitions and rules as files, on the command line.
    class DefinitionFilesCommand
      # @param shell [#say, #yes?]
      def initialize(shell)
        @shell = shell
      end

      # @param directory [String]
      # @return [void]
      def write(directory)
        written = DefinitionFiles::Writing.new.write(directory)
        @shell.say "#{Estrel::English.counted(written.size, "file")} in #{directory}"
      end

      # Says what is different, asks, and makes it so.
      #
      # @param directory [String]
      # @param yes [Boolean] without asking
      # @param check [Boolean] only says what is different
      # @return [void]
      # @raise [Error] where it was only to be checked and there is a difference, or where the answer is no
      def apply(directory, yes: false, check: false)
        applying = DefinitionFiles::Applying.new(DefinitionFiles::Document.all(directory))
        would = applying.carry_out(keep: false).reject { |done| done.what == "same" }
        tell(would)
        return if would.empty?
        raise Error, "differs from the files" if check
        raise Error, "left as it was" unless yes || @shell.yes?("Do this? (yes/no)")

        applying.carry_out
        @shell.say "done"
      end

      private

      def tell(would)
        @shell.say "already matches the files" if would.empty?
        would.each do |done|
          @shell.say "#{done.what}: #{done.kind.tr("_", " ")} \"#{done.name}\""
          done.differences.each { |difference| @shell.say "  #{difference}" }
        end
      end
    end
  end
end
