# frozen_string_literal: true

require "thor"
require "tty-progressbar"

module EstrelServer
  module CLI
    # The command line: `bin/estrel help` lists everything.
    class Main < Thor
      include Connecting
      include LedgerProcesses

      def self.exit_on_failure? = true

      desc "describe", "print the description of the API, that of every analysis included, as OpenAPI in JSON"
      def describe = puts(JSON.pretty_generate(API::Description.document))

      desc "serve", "run the web server (for the process manager)"
      def serve = puma("config/puma.rb", "config.ru")

      desc "questions", "answer heavy questions for the web server (for the process manager)"
      def questions = puma("config/questions_puma.rb", "config/questions.ru")

      desc "answer", "run a query worker (for the process manager)"
      method_option :slot, type: :numeric, default: 0, desc: "number of the process on this machine"
      method_option :lists, type: :boolean, default: false, desc: "for the web server's lists alone"
      method_option :held, type: :boolean, default: false, desc: "only pieces of the ledger that are held are here"
      def answer
        settings = checked_settings
        EstrelServer.started_as("answers")
        held = options[:held] ? settings.held : Estrel::Ledger::Held::ALL
        slot = options[:lists] ? Answers::Pool::LISTS : options[:slot]
        Answers::PartProcess.new(slot, settings, held: held).run
      end

      desc "collect", "run the collector (for the process manager)"
      def collect = puma("config/collector_puma.rb", "config/collector.ru")

      desc "database", "run Estrel's own database server (for the process manager)"
      def database = EstrelServer::Database.new(checked_settings).run

      desc "work QUEUE", "run a background worker for the queue imports or exports (for the process manager)"
      method_option :slot, type: :numeric, default: 1, desc: "number of the worker, if several serve one queue on a " \
                                                             "machine"
      def work(queue)
        working_as(queue, "work", queue, "--slot", options[:slot].to_s)
        Workers::Worker.new(queue, options[:slot]).run
      end

      map "stand-in" => :stand_in
      desc "stand-in", "run the messaging stand-in (for the process manager)"
      def stand_in
        settings = checked_settings
        # It keeps its record beside Estrel's own database; where that is elsewhere, it does not run.
        sleep unless settings.stand_in && settings.database_url.nil?
        puma("config/stand_in_puma.rb", "config/stand_in.ru")
      end

      desc "schedule", "start runs of exports when their time has come (for the process manager)"
      def schedule
        working_as("schedule", "schedule")
        Workers::Scheduler.new.run
      end

      desc "setup", "create or update the database's tables, and fill an empty workspace with the demo"
      method_option :new_keys, type: :boolean, desc: "continue although the old keys are lost"
      method_option :rotate_key, type: :boolean, desc: "replace the keys; stop Estrel first"
      def setup
        settings = checked_settings
        Figures.clear if Workspaces.own.first?
        plainly { Settings::Rotation.new(settings).begin } if options[:rotate_key]
        connected(new_keys: options[:new_keys]) do
          FileUtils.chmod_R("go-rwx", settings.var)
          Demo.new(settings, method(:say)).fill_if_empty if settings.demo
          next unless Workspaces.own.first?

          AccountCommand.new(self, settings).first
          InstalledWorkspace.where(state: %w[open archived]).pluck(:name).each { |name| bring_up(name) }
          Settings::Rotation.new(settings).finish
        end
      end

      desc "backup DIR", "back up to a new directory while Estrel keeps running"
      method_option :keys, desc: "a new file for the keys, to be kept apart from the rest"
      def backup(directory)
        connected { BackupCommand.new(self, checked_settings).backup(directory, options[:keys]) }
      end

      desc "restore DIR", "fill an empty ESTREL_VAR with a backup"
      method_option :keys, desc: "the file with the keys"
      method_option :logs, desc: "the directory with the binary logs, to follow what has changed since"
      method_option :until, desc: "replay the logs up to this time, e.g. 2026-11-29T06:00:00Z"
      def restore(directory)
        plainly do
          BackupCommand.new(self, checked_settings)
                       .restore(directory, keys: options[:keys], logs: options[:logs], till: options[:until])
        end
      end

      desc "verify DIR", "restore a backup into a scratch database and compare every table with what was backed up"
      def verify(directory)
        plainly { BackupCommand.new(self, checked_settings).verify(directory) }
      end

      desc "import KIND FILE…", "import events or profiles from CSV or JSON Lines files, plain or gzip"
      method_option :mapping, desc: "JSON file with the column mapping, see docs/import-formats.md"
      method_option :map, type: :hash, default: {}, desc: "the same for single columns: --map time:happened_at id:uid"
      method_option :source, desc: "the source of all events in the file"
      method_option :type, desc: "the event type of all events in the file"
      method_option :time_format, enum: Importing::Instants::FORMATS
      method_option :time_zone, desc: "time zone for times without one, e.g. Europe/Lisbon"
      method_option :encoding, enum: Importing::TextEncoding::NAMES.keys, desc: "of a text file, detected otherwise"
      method_option :sheet, desc: "the sheet of an .xlsx file, the first one otherwise"
      method_option :custom_id, type: :array, default: [], desc: "custom ID types to declare"
      def import(kind, *files)
        raise Thor::Error, "the kind is events or profiles" unless %w[events profiles].include?(kind)
        raise Thor::Error, "name at least one file" if files.empty?

        connected { ImportCommand.new(kind, options, self).run(files) }
      end

      desc "ledger build",
           "rebuild the ledger; also: refresh (add new data), follow (keep refreshing), prepare (write a new base), " \
           "mirror (copy from another machine)"
      method_option :lent, type: :boolean, default: false, hide: true
      def ledger(action)
        return write_pieces if action == "piece" # which only another process asks for

        actions = %w[build refresh follow prepare mirror]
        raise Thor::Error, "choose one of: #{Estrel::English.list(actions, "or")}" unless actions.include?(action)
        return follow_store if action == "follow"
        return mirror if action == "mirror"
        return connected { LedgerBuilding::Builder.new.prepare } if action == "prepare"

        connected do
          builder = LedgerBuilding::Builder.new { |message| say message }
          facts, seconds = Figures.timed { builder.refresh(rebuild: action == "build") }
          say format("%<events>d events in the ledger, %<seconds>.1f s", events: facts["event_count"], seconds: seconds)
        end
      end

      desc "source ACTION [NAME]", "list sources; add one, rotate its key, or revoke its keys"
      method_option :overlap_hours, type: :numeric, default: 24, desc: "how long old keys stay valid after a rotation"
      def source(action = "list", name = nil)
        raise Thor::Error, "choose one of: list, add, rotate, revoke" unless %w[list add rotate revoke].include?(action)
        raise Thor::Error, "give the name of the source" unless name || action == "list"

        connected do
          command = SourceCommand.new(self)
          hours = options[:overlap_hours].clamp(0, SendingKey::MAX_OVERLAP)
          command.public_send(action, *{ "list" => [], "rotate" => [name, hours] }.fetch(action, [name]))
        end
      end

      desc "account ACTION [EMAIL]",
           "list accounts; add one, create a password link, reset two-factor authentication, or create a token"
      method_option :role, enum: %w[viewer analyst administrator], default: "analyst",
                           desc: "of an account that is added"
      method_option :scopes, type: :array, default: ["read"], desc: "of a token: read, write, administer"
      def account(action = "list", email = nil)
        actions = %w[list add link reset token]
        raise Thor::Error, "choose one of: #{Estrel::English.list(actions, "or")}" unless actions.include?(action)
        raise Thor::Error, "name the e-mail address" unless email || action == "list"

        connected do
          command = AccountCommand.new(self, checked_settings)
          case action
          when "list" then command.list
          when "link", "reset" then command.public_send(action, email)
          when "add" then command.add(email, options[:role])
          else command.token(email, options[:scopes])
          end
        end
      end

      desc "write DIR", "export shared audiences, rule sets and custom groups to files"
      def write(directory) = connected { DefinitionFilesCommand.new(self).write(directory) }

      desc "apply DIR", "create and update audiences, rule sets and custom groups from files; shows the differences " \
                        "first"
      method_option :yes, type: :boolean, desc: "skip the confirmation"
      method_option :check, type: :boolean, desc: "only show the difference; the exit code is 1 where there is one"
      def apply(directory)
        connected { DefinitionFilesCommand.new(self).apply(directory, yes: options[:yes], check: options[:check]) }
      end

      map "send" => :send_file
      desc "send [FILE]", "stream CloudEvents, one a line, from a file or standard input to a collector"
      method_option :key,
                    desc: "the sending key; better given as ESTREL_KEY, which other users of the machine cannot see"
      method_option :collector, desc: "address of the collector; this machine's, unless another is named"
      def send_file(file = nil)
        key = options[:key] || ENV.fetch("ESTREL_KEY", nil)
        raise Thor::Error, "name the sending key: ESTREL_KEY=ek_… bin/estrel send FILE" unless key

        settings = checked_settings
        collector = options[:collector] || "#{settings.collector_url}/events"
        command = SendCommand.new(self, collector: collector, key: key)
        taken = file ? File.open(file) { |input| command.send_lines(input) } : command.send_lines($stdin)
        exit(1) unless taken
      rescue Errno::ENOENT
        raise Thor::Error, "there is no file #{file}"
      rescue Error => e
        raise Thor::Error, e.message
      end

      desc "workspace", "show or change the reporting time zone of the workspace that ESTREL_WORKSPACE names"
      method_option :time_zone
      def workspace
        connected do
          if options[:time_zone]
            Workspace.current.update!(time_zone: options[:time_zone])
            LedgerBuilding::Builder.new.refresh
          end
          say "reporting time zone: #{Workspace.current.time_zone}"
        end
      end

      desc "workspaces ACTION", "the workspaces of this installation: see bin/estrel workspaces help"
      subcommand "workspaces", WorkspacesCommand

      desc "properties ACTION", "pack the properties of old events, or unpack them"
      subcommand "properties", PropertiesCommand

      desc "clear", "remove all people, events, audiences, imports and exports"
      method_option :yes, type: :boolean, desc: "skip the confirmation"
      def clear
        connected do
          next unless options[:yes] || yes?("Remove all data? (yes/no)")

          Workspace.clear
          LedgerBuilding::Builder.new.refresh(rebuild: true)
          say "the workspace is empty"
        end
      end

      no_commands do
        # In this process, which has everything loaded already.
        def puma(config, application)
          checked_settings
          require "puma/cli"
          AnswerBuffers.apply
          Puma::CLI.new(["-C", File.join(ROOT, config), File.join(ROOT, application)]).run
        end
      end
    end
  end
end
