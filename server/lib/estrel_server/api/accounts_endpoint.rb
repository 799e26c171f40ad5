# frozen_string_literal: true

module EstrelServer
  module API
    # Who uses Estrel, and the log; for administrators. And whose things are.
    class AccountsEndpoint < Endpoint
      LISTED = 200
      COLUMNS = %w[at who action about from_address].freeze
      OWNED = { "audiences" => Audience, "rule-sets" => RuleSet, "exports" => Export }.freeze

      get("/accounts", role: "administrator", scope: "session",
                       personal: "none") do
        respond({ accounts: listed.map { |row| describe(row) }, roles: Account::ROLES,
                  first: Workspaces.current.first? })
      end

      # With a link by which the password is set, shown this once. In another workspace than the first one the answer is
      # the same whether or not the address has an account elsewhere, see {OneTimeLink}.
      post("/accounts", role: "administrator", scope: "session", personal: "none", log: "account created") do
        @row = Workspaces.current.first? ? Account.new(email: given["email"]) : account_of_workspace(given["email"])
        Account.transaction do
          row.update!(role: Account::NO_ROLE, confirmed: Workspaces.current.first?) unless row.persisted?
          row.change_role(role_given)
        end
        respond({ **describe(row), link: link(row) }, status: 201)
      end

      put("/accounts/:id", role: "administrator", scope: "session", personal: "none",
                           log: "role changed") do
        only_first if given.key?("disabled")
        Account.transaction do
          Account.lock_roles_here
          row.change_role(role_given) if given.key?("role")
          disable(given["disabled"]) if given.key?("disabled")
          raise Problem.new(409, "you cannot remove the last administrator") if Account.administrators_here.none?
        end
        respond({ **describe(row), link: nil })
      end

      post("/accounts/:id/link", role: "administrator", scope: "session", personal: "none",
                                 log: "password link created") do
        only_first
        respond({ **describe(row), link: link(row) })
      end

      # For somebody whose phone and codes are gone.
      delete("/accounts/:id/second-factor", role: "administrator", scope: "session", personal: "none",
                                            log: "two-factor authentication reset") do
        only_first
        row.forget_devices
        respond({ **describe(row), link: nil })
      end

      get("/log", role: "administrator", scope: "administer", personal: "none") do
        page = whole("page", 1, 1..1_000_000)
        rows = AuditEntry.order(id: :desc).offset((page - 1) * LISTED).limit(LISTED)
        respond({ total: AuditEntry.count, entries: rows.map { |entry| entry_of(entry) } })
      end

      get("/log.csv", role: "administrator", scope: "administer", personal: "none") do
        content_type "text/csv"
        attachment "log.csv"
        CSV.generate do |csv|
          csv << COLUMNS
          AuditEntry.order(:id).find_each { |entry| csv << row_of(entry) }
        end
      end

      OWNED.each do |place, model|
        put("/#{place}/:id/sharing", role: "analyst", scope: "write", personal: "none",
                                     log: "sharing changed") do
          thing = model.kept.find(path_id)
          thing.share(given.fetch("private"))
          respond(thing.belonging)
        end
      end

      private

      def row = @row ||= listed.find { |account| number(account) == path_id } || raise(ActiveRecord::RecordNotFound)

      # All accounts of the installation in the first workspace; in another one those with a role in it.
      def listed
        accounts = Workspaces.current.first? ? Account.all.to_a : Account.roles_here.keys
        accounts.sort_by(&:email)
      end

      def account_of_workspace(email)
        Account.named(email).tap do |account|
          raise Problem.new(409, "#{account.email} has a role in this workspace already") if account.role_here
        end
      end

      # Whoever can let somebody in, or keep somebody out, does it for all workspaces.
      def only_first
        return if Workspaces.current.first?

        raise Problem.new(403, "only administrators of the main workspace can do this, in that workspace")
      end

      def disable(disabled) = disabled ? row.disable : row.update!(disabled_at: nil)

      def role_given
        role = given["role"]
        return role if [Account::NO_ROLE, *Account::ROLES].include?(role)

        raise Problem.new(422, "the role must be one of #{[Account::NO_ROLE, *Account::ROLES].join(", ")}")
      end

      def link(account) = "#{EstrelServer.settings.public_url}/link/#{OneTimeLink.issue(account)}"

      def describe(account)
        common = { id: number(account), email: account.email, role: account.role_here || Account::NO_ROLE }
        unless Workspaces.current.first?
          return { **common, disabled: false, second_factor: nil, set_up: nil,
                             created_at: instant(membership(account).created_at) }
        end

        { **common, disabled: !account.disabled_at.nil?, second_factor: account.second_factor.state,
                    set_up: !account.password_digest.nil?, created_at: instant(account.created_at) }
      end

      # Numbers and dates of accounts would show other workspaces which addresses had one before.
      def number(account) = Workspaces.current.first? ? account.id : membership(account).id

      def membership(account)
        @memberships ||= Hash.new do |rows, id|
          workspace = InstalledWorkspace.find_by!(name: Workspaces.current.name)
          rows[id] = Membership.find_by(account_id: id, installed_workspace: workspace) || Membership.new(id: 0)
        end
        @memberships[account.id]
      end

      def entry_of(entry)
        { at: instant(entry.at), who: entry.who, action: entry.action, about: entry.about,
          from_address: entry.from_address }
      end

      # Who signs in writes the address; a spreadsheet is not to run it.
      def row_of(entry)
        entry_of(entry).values.map { |value| Estrel::Exports::RowsFile.harmless(value) }
      end
    end
  end
end
