# frozen_string_literal: true

require "thor"

module EstrelServer
  module CLI
    # The installation's workspaces on the command line.
    class WorkspacesCommand < Thor
      include Connecting

      namespace "workspaces"
      def self.exit_on_failure? = true

      desc "list", "list the workspaces"
      def list
        connected do
          say "#{Workspaces::FIRST}, open"
          InstalledWorkspace.order(:name).each do |row|
            say [row.name, row.state, *(row.title unless row.title == row.name), *row.problem].join(", ")
          end
        end
      end

      desc "make NAME", "create a workspace"
      method_option :title, desc: "what people call it"
      def make(name)
        connected do
          row = InstalledWorkspace.create!(name: name, title: options[:title], state: "being made",
                                           made_by: "command line")
          note("workspace created", row)
          bring_up(name)
          row.update!(state: "open")
          say "#{name} is open, at #{EstrelServer.settings.public_url}#{row.place.base}; " \
              "add a user with: ESTREL_WORKSPACE=#{name} bin/estrel account add EMAIL"
        end
      end

      desc "archive NAME", "archive a workspace: keep its data but stop access and processing"
      def archive(name) = change(name, from: "open", to: "archived")

      desc "open NAME", "open an archived workspace again"
      def open(name) = change(name, from: "archived", to: "open")

      desc "remove NAME", "remove an archived workspace with everything in it"
      method_option :yes, type: :boolean, desc: "do not ask"
      def remove(name)
        connected do
          row = found(name)
          raise Error, "archive #{name} first" unless row.state == "archived"
          next unless options[:yes] || yes?("Remove #{name} and all that is in it? (yes/no)")

          row.update!(state: "being removed", problem: nil)
          note("workspace removed", row)
          say "#{name} is being removed: within a minute, while Estrel runs"
        end
      end

      desc "copy NAME", "copy the definitions shared in a workspace into that which ESTREL_WORKSPACE names"
      def copy(name)
        connected do
          raise Error, "name another workspace than this one" if name == Workspaces.current.name

          from = name == Workspaces::FIRST ? Workspaces.first : found(name).place
          done = Workspaces::Copying.new(from).carry_out.reject { |one| one.what == "same" }
          say "already up to date" if done.empty?
          done.each { |one| say "#{one.what}: #{one.kind.tr("_", " ")} \"#{one.name}\"" }
        end
      end

      private

      def found(name) = InstalledWorkspace.find_by(name: name) || raise(Error, "there is no workspace #{name.inspect}")

      def change(name, from:, to:)
        connected do
          row = found(name)
          raise Error, "#{name} is #{row.state}" unless row.state == from

          row.update!(state: to)
          note("workspace changed", row)
          say "#{name} is #{to}"
        end
      end

      def note(action, row) = AuditEntry.add(action, who: "command line", about: row.name)
    end
  end
end
