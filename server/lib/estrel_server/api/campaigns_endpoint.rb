# frozen_string_literal: true

module EstrelServer
  module API
    # Campaigns: what came of their messages, and how people respond from one to the next.
    class CampaignsEndpoint < Endpoint
      get("/campaigns", role: "viewer", scope: "read", personal: "none") do
        evaluator = question.whole
        results = Estrel::Campaigns::Results.new(evaluator)
        handed_over = ExportRun.handed_over_by_name(evaluator.as_of)
        rows = results.campaigns.map do |row|
          row.merge("handed_over" => handed_over.fetch(row.values_at("campaign", "channel"), nil))
        end
        respond({ as_of: evaluator.as_of, messaging: evaluator.catalogue.messaging.to_h, takeaway: results.takeaway,
                  back_days: Estrel::Campaigns::Results::BACK_DAYS, campaigns: rows })
      end

      get("/campaigns/over-time", role: "viewer", scope: "read", personal: "none") do
        evaluator = question.whole
        days = Estrel::Campaigns::Results.new(evaluator).over_time(params["name"], params["channel"])
        respond({ as_of: evaluator.as_of, days: days })
      end

      get("/campaigns/response", role: "viewer", scope: "read", personal: "none") do
        evaluator = question.whole
        responses = Estrel::Campaigns::Responses.new(evaluator, channel: params["channel"])
        respond({ as_of: evaluator.as_of, points: responses.points, **responses.heat_map,
                  current_runs: responses.current_runs.map { |length, people| { length: length, people: people } } })
      end

      # One person's runs of response.
      get("/people/:id/responses", role: "viewer", scope: "read", personal: "none") do
        asked = question
        profile = Person.new(path_id, asked).profile
        ids = Polars::Series.new("profile_id", [profile.id], dtype: Polars::Int64)
        respond({ as_of: asked.as_of,
                  series: Estrel::Campaigns::Responses.new(asked.whole.among(ids)).of_person })
      end

      # Which event types tell of messages.
      put("/campaigns/messaging", role: "administrator", scope: "administer", personal: "none",
                                  log: "settings changed") do
        names = Estrel::Campaigns::Messaging.new(given).to_h
        Workspace.current.update!(messaging: names)
        Workspace.catalogue_changed
        LedgerBuilder.new.refresh
        respond(names)
      end
    end
  end
end
