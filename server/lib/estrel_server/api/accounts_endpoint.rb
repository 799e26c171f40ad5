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

      # With a link by which the password is set, shown this once; somebody who has an account already needs none.
      post("/accounts", role: "administrator", scope: "session", personal: "none", log: "account made") do
        @row = Workspaces.current.first? ? Account.new(email: given["email"]) : Account.named(given["email"])
        known = row.persisted?
        Account.transaction do
          row.update!(role: Account::NO_ROLE) unless known
          row.change_role(role_given)
        end
        respond({ **describe(row), link: known ? nil : link(row) }, status: 201)
      end

      put("/accounts/:id", role: "administrator", scope: "session", personal: "none",
                           log: "rights changed") do
        only_first if given.key?("disabled")
        Account.transaction do
          row.change_role(role_given) if given.key?("role")
          disable(given["disabled"]) if given.key?("disabled")
          raise Problem.new(409, "this is the last administrator") if Account.administrators_here.none?
        end
        respond({ **describe(row), link: nil })
      end

      post("/accounts/:id/link", role: "administrator", scope: "session", personal: "none",
                                 log: "password link made") do
        only_first
        respond({ **describe(row), link: link(row) })
      end

      # For somebody whose phone and codes are gone.
      delete("/accounts/:id/second-factor", role: "administrator", scope: "session", personal: "none",
                                            log: "second factor taken away") do
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

      def row = @row ||= listed.find { |account| account.id == path_id } || raise(ActiveRecord::RecordNotFound)

      # All of the installation in the first workspace; in another one those who have something to do there.
      def listed
        accounts = Workspaces.current.first? ? Account.all.to_a : Account.roles_here.keys
        accounts.sort_by(&:email)
      end

      # Whoever can let somebody in, or keep somebody out, does it for all workspaces.
      def only_first
        return if Workspaces.current.first?

        raise Problem.new(403, "only administrators of the first workspace can do this, there")
      end

      def disable(disabled) = disabled ? row.disable : row.update!(disabled_at: nil)

      def role_given
        role = given["role"]
        return role if [Account::NO_ROLE, *Account::ROLES].include?(role)

        raise Problem.new(422, "the role must be one of #{[Account::NO_ROLE, *Account::ROLES].join(", ")}")
      end

      def link(account) = "#{EstrelServer.settings.public_url}/link/#{OneTimeLink.issue(account)}"

      def describe(account)
        { id: account.id, email: account.email, role: account.role_here || Account::NO_ROLE,
          disabled: !account.disabled_at.nil?, second_factor: account.second_factor.state,
          set_up: !account.password_digest.nil?, created_at: instant(account.created_at) }
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
