# frozen_string_literal: true

module EstrelServer
  module API
    # The workspaces of the installation, which are administered in the first one; and definitions that come from one
    # into another.
    class WorkspacesEndpoint < Endpoint
      get("/workspaces", role: "administrator", scope: "administer", personal: "none") do
        only_first
        respond({ workspaces: InstalledWorkspace.order(:name).map { |row| describe(row) } })
      end

      # Whoever makes one administers it.
      post("/workspaces", role: "administrator", scope: "administer", personal: "none", log: "workspace created") do
        only_first
        row = one_at_a_time("workspaces") { InstalledWorkspace.transaction { create } }
        respond(describe(row), status: 201)
      end

      put("/workspaces/:id", role: "administrator", scope: "administer", personal: "none", log: "workspace changed") do
        only_first
        row.title = given["title"] if given.key?("title")
        file_away(given["archived"]) if given.key?("archived")
        row.save!
        InstalledWorkspace.forget
        respond(describe(row))
      end

      # With everything in it. It has to be archived before, and its name is asked for once more.
      delete("/workspaces/:id", role: "administrator", scope: "administer", personal: "none",
                                log: "workspace removed") do
        only_first
        raise Problem.new(409, "archive the workspace before you delete it") unless row.state == "archived"
        raise Problem.new(422, "the name does not match") unless params["name"] == row.name

        row.update!(state: "being removed", problem: nil)
        respond(describe(row))
      end

      post("/workspace/definitions", role: "administrator", scope: "administer", personal: "none",
                                     log: "definitions copied") do
        done = Workspaces::Copying.new(source).carry_out(keep: !given["check"])
        respond({ definitions: done.map do |one|
          { kind: one.kind, name: one.name, what: one.what, differences: one.differences }
        end })
      end

      private

      def only_first
        return if Workspaces.current.first?

        raise Problem.new(404, "workspaces are managed in the main workspace")
      end

      def create
        InstalledWorkspace.create!(name: given["name"], title: given["title"], state: "being made",
                                   made_by: Access::Current.account.email).tap do |workspace|
          workspace.memberships.create!(account: Access::Current.account, role: "administrator")
        end
      end

      def row = @row ||= InstalledWorkspace.find(path_id)

      def file_away(archived)
        unless %w[open archived].include?(row.state)
          raise Problem.new(409, "the workspace is #{row.state}; wait until that is finished")
        end

        row.state = archived ? "archived" : "open"
      end

      # One where whoever asks could write these definitions as well.
      def source
        name = given["from"]
        raise Problem.new(422, "choose a different workspace") if name == Workspaces.current.name

        role = Access::Current.account.roles[name]
        unless role && Account::ROLES.index(role) >= Account::ROLES.index("analyst")
          raise Problem.new(422, "you are not an analyst in a workspace of that name")
        end

        Workspaces.place(name)
      end

      def describe(row)
        { id: row.id, name: row.name, title: row.title, state: row.state, problem: row.problem, made_by: row.made_by,
          created_at: instant(row.created_at), base: row.place.base, accounts: row.memberships.count }
      end
    end
  end
end
