# frozen_string_literal: true

module EstrelServer
  module CLI
    # How a command comes by its settings and the database. What goes wrong with either is said in a sentence.
    module Connecting
      private

      def checked_settings
        EstrelServer.settings.tap(&:check_directory)
      rescue Settings::Invalid => e
        raise Thor::Error, e.message
      end

      # @param new_keys [Boolean] whether the keys by which the database was written are lost
      def connected(new_keys: false)
        plainly do
          EstrelServer::Database.new(checked_settings).during do
            Database::Store.connect
            Database::Store.migrate
            Workspace.current.update!(keys_digest: nil) if new_keys
            take_up_key
            Database::Store.check
            yield
          end
        end
      end

      def take_up_key
        written = Settings::Rotation.new(checked_settings).carry_out or return
        say "#{Estrel::English.counted(written, "row")} re-encrypted with the new key."
      end

      # For a process that goes on and on.
      #
      # @param kind [String]
      # @param command [Array<String>] by which it was started, for its companions in other workspaces
      def working_as(kind, *command)
        plainly do
          Database::Store.connect(checked_settings)
          Database::Store.check
        end
        EstrelServer.started_as(kind)
        Workspaces::Companions.keep(*command)
      end

      # Makes the tables of another workspace, or brings them up to date, by a process of its own.
      def bring_up(name)
        return if system({ "ESTREL_WORKSPACE" => name }, File.join(ROOT, "bin/estrel"), "setup")

        raise Thor::Error, "the tables of the workspace #{name} could not be made or brought up to date"
      end

      # What goes wrong is said in a sentence.
      def plainly
        yield
      rescue Error, Estrel::Error, ActiveRecord::RecordInvalid => e
        raise Thor::Error, e.message
      rescue *Database::Store::AWAY
        raise Thor::Error, "the database has gone away; run this again once it is back"
      end
    end
  end
end
