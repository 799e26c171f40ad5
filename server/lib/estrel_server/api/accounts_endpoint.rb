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
        respond({ accounts: Account.order(:email).map do |row|
          describe(row)
        end, roles: Account::ROLES })
      end

      # With a link by which the password is set, shown this once.
      post("/accounts", role: "administrator", scope: "session", personal: "none", log: "account made") do
        row = Account.create!(email: given["email"], role: given["role"].to_s)
        respond({ **describe(row), link: link(row) }, status: 201)
      end

      put("/accounts/:id", role: "administrator", scope: "session", personal: "none",
                           log: "rights changed") do
        Account.transaction do
          row.change_rights(role: given.fetch("role", row.role),
                            disabled: given.fetch("disabled", !row.disabled_at.nil?))
          raise Problem.new(409, "this is the last administrator") if Account.usable.where(role: "administrator").none?
        end
        respond({ **describe(row), link: nil })
      end

      post("/accounts/:id/link", role: "administrator", scope: "session", personal: "none",
                                 log: "password link made") { respond({ **describe(row), link: link(row) }) }

      # For somebody whose phone and codes are gone.
      delete("/accounts/:id/second-factor", role: "administrator", scope: "session", personal: "none",
                                            log: "second factor taken away") do
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

      def row = @row ||= Account.find(path_id)

      def link(account) = "#{EstrelServer.settings.public_url}/link/#{OneTimeLink.issue(account)}"

      def describe(account)
        { id: account.id, email: account.email, role: account.role, disabled: !account.disabled_at.nil?,
          second_factor: account.second_factor.state, set_up: !account.password_digest.nil?,
          created_at: instant(account.created_at) }
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
