# frozen_string_literal: true

module EstrelServer
  module API
    # The workspace, its policy, its catalogue, and the state of the base.
    class BaseEndpoint < Endpoint
      DEFAULT_RANGE = 365

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

      get("/base") do
        raise Problem.new(409, "no event type counts as activity yet; import events or choose some") unless policy

        to = as_of
        from = params["from"] ? day(params["from"], "from") : default_from(to)
        lifecycle = Estrel::Lifecycle.new(question.ledger, policy)
        base = Estrel::Lifecycle::Base.new(lifecycle, from: from, to: to, today: today).to_h
        respond(base.merge(audiences: compared(to, base[:before])))
      end

      get("/policy") { respond(describe_policy) }

      put("/policy") do
        json = body_json
        numbers = %w[new_for active_within churned_after].to_h { |name| [name.to_sym, json[name]] }
        rules = Estrel::Lifecycle::Policy.new(activity: json["activity"], **numbers)
        unknown = rules.activity - generation.catalogue.event_types.keys
        if unknown.any?
          raise Problem.new(422, "the policy cannot be used",
                            [{ place: "activity", message: "no event type \"#{unknown.first}\"" }])
        end
        LifecyclePolicy.current.update!(**rules.to_h)
        respond(describe_policy)
      end

      get("/schemas/audience-definition.json") do
        content_type "application/schema+json"
        File.read(Estrel::Audience::Document::SCHEMA_FILE)
      end

      private

      def default_from(to)
        oldest = [generation.oldest_day || to, to].min
        [to - DEFAULT_RANGE + 1, oldest].max
      end

      # The states of each audience of the tray, and of it on the day compared with.
      def compared(now, before)
        tray.map do |id, definition|
          { id: id, states: question.evaluator(now).state_mix(definition),
            before: question.evaluator(before).state_mix(definition) }
        end
      end

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

      def describe_policy
        record = LifecyclePolicy.current
        { activity: record.activity, new_for: record.new_for, active_within: record.active_within,
          churned_after: record.churned_after, chosen: record.persisted? }
      end
    end
  end
end
