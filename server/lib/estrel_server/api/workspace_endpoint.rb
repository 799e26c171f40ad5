# frozen_string_literal: true

module EstrelServer
  module API
    # The workspace and its settings.
    class WorkspaceEndpoint < Endpoint
      get("/workspace") { respond(workspace) }

      post("/workspace/clear") do
        if body_json["confirm"] != "remove all data"
          raise Problem.new(422, "say {\"confirm\": \"remove all data\"} to do this")
        end

        Workspace.clear
        LedgerBuilder.new.refresh(rebuild: true)
        respond({ cleared: true })
      end

      put("/workspace") do
        change = SettingsChange.new(body_json, default_as_of: ready? ? default_as_of : today)
        respond(change.carry_out.merge(workspace: workspace))
      end

      get("/schemas/audience-definition.json") do
        content_type "application/schema+json"
        File.read(Estrel::Audience::Document::SCHEMA_FILE)
      end

      private

      def workspace
        row = Workspace.current
        common = { time_zone: row.time_zone, visit_gap_minutes: row.visit_gap_minutes,
                   future_tolerance_minutes: row.future_tolerance_minutes, today: today }
        return { ready: false, generation: nil, default_as_of: nil, data: nil, **common } unless ready?

        facts = generation.facts
        { ready: true, generation: generation.number, default_as_of: default_as_of, **common,
          data: { profiles: generation.base_size, events: facts["event_count"], oldest_day: generation.oldest_day,
                  newest_day: generation.newest_day, newest_received_at: moment(facts["newest_received_at"]),
                  built_at: facts["built_at"], up_to_date: facts["marks"] == LedgerBuilding::Snapshot.marks } }
      end

      def ready? = EstrelServer.ledger.current_manifest_or_nil && generation.base_size.positive?

      def moment(micros) = micros && instant(Time.at(0, micros, :usec).utc)
    end
  end
end
