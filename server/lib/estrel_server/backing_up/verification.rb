# frozen_string_literal: true

require "tmpdir"

module EstrelServer
  module BackingUp
    # Tells whether a backup can be restored: loads it into a database of its own, which is thrown away again, and
    # compares every table's rows with those that were written.
    class Verification
      # @param settings [Settings] under whose `var` there is room
      # @param copy [Copy]
      def initialize(settings, copy)
        @settings = settings
        @copy = copy
      end

      # @return [Hash{String => Integer}] how many rows each table has, in all workspaces
      # @raise [Error] where anything is missing or different
      def carry_out
        @copy.check
        Dir.mktmpdir("verify-", @settings.var) do |directory|
          scratch = Settings.from({ "ESTREL_VAR" => directory,
                                    "ESTREL_DATABASE_MEMORY_MB" => @settings.database_memory_mb.to_s })
          @copy.workspaces.zip(restored(scratch)).map { |workspace, found| compared(workspace, found) }
               .reduce { |one, other| one.merge(other) { |_, here, there| here + there } }
        end
      end

      private

      def restored(scratch)
        Database.new(scratch).during do
          Restoring.new(scratch, @copy).load
          @copy.workspaces.map { |workspace| tables_of(scratch.of(workspace)) }
        end
      end

      def tables_of(settings)
        tables = Tables.new
        Programs.new(settings).dump { |sql| sql.each_line(Tables::STATEMENT_END) { |one| tables.read(one) } }
        tables.to_h
      end

      def compared(workspace, found)
        written = @copy.facts(workspace)["tables"]
        wrong = (written.keys | found.keys).reject { |name| written[name] == found[name] }
        return written.to_h { |name, table| [name, table["rows"]] } if wrong.empty?

        were, are = [written, found].map { |tables| tables.dig(wrong.first, "rows") || "no" }
        raise Error, "#{Estrel::English.list(wrong, "and")} would not be as they were: #{are} rows instead of " \
                     "#{were} in the first"
      end
    end
  end
end
