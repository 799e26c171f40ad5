# frozen_string_literal: true

module EstrelServer
  module API
    # Rule sets of the lifecycle: named, versioned, one of them the default; and what a change would do before it is
    # made.
    class RuleSetsEndpoint < Endpoint
      # The rule set of this request.
      get("/rule-set", role: "viewer", scope: "read", personal: "none") { respond(describe(rule_set_record)) }

      # Changes the default rule set, which is made by this where nobody has chosen one yet.
      put("/rule-set", role: "analyst", scope: "write", personal: "none") do
        record = one_change { RuleSet.current.tap { |row| row.keep(rules(of: row), author: author) } }
        respond(describe(record.reload))
      end

      get("/rule-sets", role: "viewer", scope: "read", personal: "none") do
        rows = RuleSet.kept.includes(:versions, :owner).order(default: :desc, name: :asc)
        respond({ rule_sets: rows.map { |row| describe(row) } })
      end

      post("/rule-sets", role: "analyst", scope: "write", personal: "none") do
        record = one_change do
          row = RuleSet.new(name: name, default: RuleSet.kept.none?)
          row.tap { row.keep(rules(of: row), author: author) }
        end
        respond(describe(record.reload), status: 201)
      end

      get("/rule-sets/:id", role: "viewer", scope: "read", personal: "none") do
        respond({ **describe(record), versions: record.versions.reverse.map do |row|
          version(row)
        end })
      end

      put("/rule-sets/:id", role: "analyst", scope: "write", personal: "none") do
        one_change do
          record.lock!
          refuse_if_changed
          record.update!(name: name) if given.key?("name")
          record.keep(rules(of: record), author: author) if given.key?("activity")
          record.touch
          make_default if given["default"] == true
        end
        respond(describe(record.reload))
      end

      delete("/rule-sets/:id", role: "analyst", scope: "write", personal: "none") do
        one_change do
          if record.default
            raise Problem.new(409,
                              "the default rule set cannot be deleted; choose another default first")
          end

          users = References.told(record)
          raise Problem.new(409, "this rule set is used by audiences; change them first", users) if users.any?

          record.update!(deleted_at: Time.now.utc)
          AlertRule.where(rule_set_id: record.id).destroy_all
        end
        respond(describe(record))
      end

      post("/rule-sets/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = RuleSet.visible.find(path_id)
        Answers::Asking.rule_set(row.rules_json, generation.catalogue, of: row)
        row.update!(deleted_at: nil)
        respond(describe(row))
      end

      private

      # Names are taken once, and one rule set is the default.
      def one_change(&) = one_at_a_time("rule sets") { RuleSet.transaction(&) }

      def record = @record ||= RuleSet.kept.find(path_id)

      def name = given["name"].to_s.strip

      def rules(of:)
        known = %w[activity new_for active_within churned_after population channel]
        Answers::Asking.rule_set(given.slice(*known), generation.catalogue, of: of) ||
          raise(Problem.new(422, "the rule set cannot be used",
                            [{ place: "activity", message: "choose at least one event type that counts" }]))
      end

      def refuse_if_changed
        return if given["updated_at"].nil? || given["updated_at"] == instant(record.updated_at)

        raise Problem.new(409,
                          "someone else changed this rule set; it is now version #{record.versions.last.number}")
      end

      # Everything depends on the default rules, so they have to be usable.
      def make_default
        Answers::Asking.rule_set(record.rules_json, whole_generation.catalogue, of: record)
        RuleSet.where.not(id: record.id).update_all(default: false)
        record.update!(default: true, private: false)
      end

      def describe(row)
        rules = row.rules_json
        { id: row.id, name: row.name, default: row.default, version: row.versions.last&.number,
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
