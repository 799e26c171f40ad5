# frozen_string_literal: true

module EstrelServer
  module CLI
    # Backups on the command line.
    class BackupCommand
      # @param shell [#say]
      # @param settings [Settings]
      def initialize(shell, settings)
        @shell = shell
        @settings = settings
      end

      # @param directory [String]
      # @param keys [String, nil] see {BackingUp::Backup#write}
      # @return [void]
      def backup(directory, keys)
        manifest, seconds = Figures.timed { BackingUp::Backup.new(@settings).write(directory, keys: keys) }
        @shell.say "#{contents(manifest)}, #{seconds.round(1)} s; bin/estrel verify #{directory} tells whether it " \
                   "can be restored"
        @shell.say "the backup does not contain the keys; write them to a separate file with --keys" unless keys
      end

      # @param directory [String]
      # @param keys [String, nil] see {BackingUp::Restoring#carry_out}
      # @param logs [String, nil]
      # @param till [String, nil] an ISO 8601 time
      # @return [void]
      # @raise [Error]
      def restore(directory, keys: nil, logs: nil, till: nil)
        raise Error, "--until needs --logs, the directory of the binary logs" if till && !logs

        restoring = BackingUp::Restoring.new(@settings, BackingUp::Copy.new(directory))
        manifest, seconds = Figures.timed { restoring.carry_out(keys: keys, logs: logs, till: time(till)) }
        @shell.say "#{contents(manifest)} as of #{manifest["made_at"]}#{", and what followed," if logs} restored to " \
                   "#{@settings.var}, #{seconds.round(1)} s; the ledger is built anew when Estrel starts"
        @shell.say "runs in progress were cancelled; missed schedules are not caught up"
        return if keys

        @shell.say "without the keys, destination secrets are lost and erased people are no longer recognised"
      end

      # @param directory [String]
      # @return [void]
      def verify(directory)
        verification = BackingUp::Verification.new(@settings, BackingUp::Copy.new(directory))
        tables, seconds = Figures.timed { verification.carry_out }
        tables.each { |name, rows| @shell.say "#{name}: #{Estrel::English.number(rows)}" if rows.positive? }
        @shell.say "all #{tables.size} tables are restored as they were, #{seconds.round(1)} s"
      end

      private

      def contents(manifest)
        people, events = %w[profiles events].map { |name| Estrel::English.number(manifest["tables"][name]["rows"]) }
        "#{people} profiles and #{events} events"
      end

      def time(text)
        text && Time.iso8601(text)
      rescue ArgumentError
        raise Error, "--until must be a time such as 2026-11-29T06:00:00Z"
      end
    end
  end
end
