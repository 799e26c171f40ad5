# frozen_string_literal: true

require "thor"
require "tty-progressbar"

module EstrelServer
  module CLI
    # The command line: `bin/estrel help` lists everything.
    class Main < Thor
      def self.exit_on_failure? = true

      desc "serve", "run the web server (for the process manager)"
      def serve
        settings = checked_settings
        EstrelServer::Database.new(settings).wait_until_reachable
        exec({ "ESTREL_WEB_PROCESSES" => settings.web_processes.to_s, "ESTREL_BIND" => settings.bind,
               "ESTREL_PORT" => settings.port.to_s }, "bundle", "exec", "puma", "-C", File.join(ROOT, "config/puma.rb"),
             File.join(ROOT, "config.ru"))
      end

      desc "database", "run Estrel's own database server (for the process manager)"
      def database = EstrelServer::Database.new(checked_settings).run

      desc "work QUEUE", "run a background worker for the queue imports or exports (for the process manager)"
      def work(queue)
        Store.connect(checked_settings)
        Worker.new(queue).run
      end

      desc "setup", "create or update the database's tables, and fill an empty workspace with the demo"
      def setup
        settings = checked_settings
        EstrelServer::Database.new(settings).during do
          Store.connect(settings)
          Store.migrate
          Demo.new(settings, method(:say)).fill_if_empty if settings.demo
        end
      end

      desc "import KIND FILE…", "import events or profiles from CSV or JSON Lines files, plain or gzip"
      method_option :mapping, desc: "a JSON file saying which column is what, see docs/import-formats.md"
      method_option :map, type: :hash, default: {}, desc: "the same for single columns: --map time:happened_at id:uid"
      method_option :source, desc: "the source of all events in the file"
      method_option :type, desc: "the event type of all events in the file"
      method_option :time_format, enum: Importing::Instants::FORMATS
      method_option :time_zone, desc: "of times that name none, for example Europe/Lisbon"
      method_option :handle, type: :array, default: [], desc: "kinds of handle to make known"
      def import(kind, *files)
        raise Thor::Error, "the kind is events or profiles" unless %w[events profiles].include?(kind)
        raise Thor::Error, "name at least one file" if files.empty?

        connected { ImportCommand.new(kind, options, self).run(files) }
      end

      desc "ledger build", "rebuild the ledger from the database; ledger refresh adds what is new"
      def ledger(action)
        raise Thor::Error, "say build or refresh" unless %w[build refresh].include?(action)

        connected do
          started = Process.clock_gettime(Process::CLOCK_MONOTONIC)
          facts = LedgerBuilder.new { |message| say message }.refresh(rebuild: action == "build")
          seconds = Process.clock_gettime(Process::CLOCK_MONOTONIC) - started
          say format("%<events>d events in the ledger, %<seconds>.1f s", events: facts["event_count"], seconds: seconds)
        end
      end

      desc "workspace", "show or change the reporting time zone"
      method_option :time_zone
      def workspace
        connected do
          if options[:time_zone]
            Workspace.current.update!(time_zone: options[:time_zone])
            LedgerBuilder.new.refresh
          end
          say "reporting time zone: #{Workspace.current.time_zone}"
        end
      end

      desc "clear", "remove all people, events, audiences, imports and exports"
      method_option :yes, type: :boolean, desc: "do not ask"
      def clear
        connected do
          next unless options[:yes] || yes?("Remove all data? (yes/no)")

          Workspace.clear
          LedgerBuilder.new.refresh(rebuild: true)
          say "the workspace is empty"
        end
      end

      no_commands do
        def checked_settings
          EstrelServer.settings
        rescue Settings::Invalid => e
          raise Thor::Error, e.message
        end

        def connected
          settings = checked_settings
          EstrelServer::Database.new(settings).during do
            Store.connect(settings)
            Store.migrate
            yield
          end
        rescue Error, Estrel::Error, ActiveRecord::RecordInvalid => e
          raise Thor::Error, e.message
        end
      end
    end
  end
end
