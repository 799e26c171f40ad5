# frozen_string_literal: true

module EstrelServer
  module API
    # The workspace and its settings.
    class WorkspaceEndpoint < Endpoint
      get("/workspace", role: "viewer", scope: "read", personal: "none") { respond(workspace) }

      get("/workspace/faults", role: "viewer", scope: "read", personal: "none") do
        damage = EstrelServer.ledger.damage
        faults = Fault.order(last_at: :desc).map do |row|
          { process: row.process, step: row.step, message: Access::Disclosure.all? ? row.message : row.message[/\A\w+/],
            since: instant(row.since), last_at: instant(row.last_at), count: row.count }
        end
        faults.unshift(damaged(damage)) if damage
        respond({ faults: faults, set_aside: set_aside })
      end

      post("/workspace/clear", role: "administrator", scope: "administer", personal: "none",
                               log: "all data removed") do
        if given["confirm"] != "remove all data"
          raise Problem.new(422, "say {\"confirm\": \"remove all data\"} to do this")
        end

        Workspace.clear
        LedgerBuilding::Builder.new.refresh(rebuild: true)
        respond({ cleared: true })
      end

      # Fills an empty workspace with the demo, in the background.
      post("/workspace/demo", role: "administrator", scope: "administer", personal: "none", log: "demo loaded") do
        raise Problem.new(409, "the workspace already has data; remove it before loading the demo") if Profile.exists?

        one_at_a_time("demo") { Delayed::Job.enqueue(Jobs::DemoJob.new) unless Jobs::DemoJob.under_way? }
        respond({ queued: true }, status: 202)
      end

      put("/workspace", role: "administrator", scope: "administer", personal: "none",
                        log: "settings changed") do
        change = Settings::Change.new(given, default_as_of: ready? ? default_as_of : today)
        respond(change.carry_out.merge(workspace: workspace))
      end

      get("/schemas/audience-definition.json", role: "anybody", scope: "session", personal: "none") do
        content_type "application/schema+json"
        JSON.pretty_generate(Estrel::Audience::Schema.document)
      end

      private

      def workspace
        row = Workspace.current
        common = { demo: row.demo, rebuilding: !ready? && Profile.exists?, time_zone: row.time_zone,
                   visit_gap_minutes: row.visit_gap_minutes, today: today,
                   future_tolerance_minutes: row.future_tolerance_minutes, kept_months: row.kept_months,
                   events_from: row.events_from }
        return { ready: false, generation: nil, default_as_of: nil, data: nil, **common } unless ready?

        facts = generation.facts
        { ready: true, generation: generation.number, default_as_of: default_as_of, **common,
          data: { profiles: generation.base_size, events: facts["event_count"], oldest_day: generation.oldest_day,
                  newest_day: generation.newest_day, newest_received_at: moment(facts["newest_received_at"]),
                  built_at: facts["built_at"], up_to_date: facts["marks"] == LedgerBuilding::Snapshot.marks } }
      end

      def ready? = EstrelServer.ledger.any? && generation.base_size.positive?

      def damaged(message)
        built = generation.facts["built_at"]
        { process: "ledger", step: "opening", message: "#{message}; showing the previous data while it is rebuilt",
          since: built, last_at: built, count: 1 }
      end

      def set_aside
        found = EstrelServer.ledger.any? ? generation.facts.fetch("set_aside", []) : []
        { count: found.sum { |part| part["count"] },
          rows: found.flat_map { |part| part["rows"].map { |row| told(part["event_type"], row) } }.first(100) }
      end

      def told(type, row)
        row.merge("event_type" => type, "reason" => Estrel::English.sentence(row["reason"]))
      end

      def moment(micros) = micros && instant(Time.at(0, micros, :usec).utc)
    end
  end
end
