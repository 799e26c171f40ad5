# frozen_string_literal: true

module EstrelServer
  module API
    # Lifecycle policies: named, versioned, one of them in force; and what a change would do before it is made.
    class PoliciesEndpoint < Endpoint
      # The policy of this request.
      get("/policy", role: "viewer", scope: "read", personal: "none") { respond(describe(policy_record)) }

      # Changes the policy in force, which is made by this where nobody has chosen one yet.
      put("/policy", role: "analyst", scope: "write", personal: "none") do
        record = LifecyclePolicy.current
        record.keep(rules(of: record), author: author)
        respond(describe(record.reload))
      end

      get("/policies", role: "viewer", scope: "read", personal: "none") do
        rows = LifecyclePolicy.kept.includes(:versions, :owner).order(in_force: :desc, name: :asc)
        respond({ policies: rows.map { |row| describe(row) } })
      end

      post("/policies", role: "analyst", scope: "write", personal: "none") do
        record = LifecyclePolicy.transaction do
          row = LifecyclePolicy.new(name: name, in_force: LifecyclePolicy.kept.none?)
          row.tap { row.keep(rules(of: row), author: author) }
        end
        respond(describe(record.reload), status: 201)
      end

      get("/policies/:id", role: "viewer", scope: "read", personal: "none") do
        respond({ **describe(record), versions: record.versions.reverse.map do |row|
          version(row)
        end })
      end

      put("/policies/:id", role: "analyst", scope: "write", personal: "none") do
        LifecyclePolicy.transaction do
          record.lock!
          refuse_if_changed
          record.update!(name: name) if given.key?("name")
          record.keep(rules(of: record), author: author) if given.key?("activity")
          record.touch
          put_in_force if given["in_force"] == true
        end
        respond(describe(record.reload))
      end

      delete("/policies/:id", role: "analyst", scope: "write", personal: "none") do
        if record.in_force
          raise Problem.new(409,
                            "the policy in force cannot be deleted; put another one in force first")
        end

        users = References.told(record)
        raise Problem.new(409, "audiences name this policy; change them first", users) if users.any?

        record.update!(deleted_at: Time.now.utc)
        Watch.where(lifecycle_policy_id: record.id).destroy_all
        respond(describe(record))
      end

      post("/policies/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = LifecyclePolicy.visible.find(path_id)
        Answers::Asking.policy(row.rules_json, generation.catalogue, of: row)
        row.update!(deleted_at: nil)
        respond(describe(row))
      end

      private

      def record = @record ||= LifecyclePolicy.kept.find(path_id)

      def name = given["name"].to_s.strip

      def rules(of:)
        known = %w[activity new_for active_within churned_after population channel]
        Answers::Asking.policy(given.slice(*known), generation.catalogue, of: of) ||
          raise(Problem.new(422, "the policy cannot be used",
                            [{ place: "activity", message: "choose at least one event type that counts" }]))
      end

      def refuse_if_changed
        return if given["updated_at"].nil? || given["updated_at"] == instant(record.updated_at)

        raise Problem.new(409,
                          "this policy has been changed meanwhile; it is at version #{record.versions.last.number}")
      end

      # Everything depends on the rules in force, so they have to be usable.
      def put_in_force
        Answers::Asking.policy(record.rules_json, whole_generation.catalogue, of: record)
        LifecyclePolicy.where.not(id: record.id).update_all(in_force: false)
        record.update!(in_force: true, private: false)
      end

      def describe(row)
        rules = row.rules_json
        { id: row.id, name: row.name, in_force: row.in_force, version: row.versions.last&.number,
          chosen: row.persisted?, **row.belonging,
          updated_at: row.persisted? ? instant(row.updated_at) : nil, **written(rules),
          hidden: rules["activity"].map { |sign| sign.is_a?(Hash) ? sign["event"] : sign } & hidden }
      end

      def version(row)
        { number: row.number, author: row.author, created_at: instant(row.created_at), **written(row.rules) }
      end

      def written(rules)
        rules = Access::Disclosure.rules(rules)
        { activity: rules["activity"], new_for: rules["new_for"], active_within: rules["active_within"],
          churned_after: rules["churned_after"], population: rules["population"], channel: rules["channel"],
          population_name: rules["population"] && Audience.visible.find_by(id: rules["population"])&.name }
      end

      # Event types that are hidden, or read as others: they count, and somebody ought to know.
      def hidden
        types = EventType.where(hidden: true).or(EventType.where(not_activity: true))
        @hidden ||= types.or(EventType.where.not(merged_into_id: nil)).pluck(:name)
      end
    end
  end
end
