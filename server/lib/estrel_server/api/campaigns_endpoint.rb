# frozen_string_literal: true

module EstrelServer
  module API
    # How one person responds to campaigns, and which events stand for messages.
    class CampaignsEndpoint < Endpoint
      # One person's response streaks.
      get("/people/:id/responses", role: "viewer", scope: "read", personal: "none") do
        asked = question
        profile = People::Person.new(path_id, asked).profile
        ids = Polars::Series.new("profile_id", [profile.id], dtype: Polars::Int64)
        respond({ as_of: asked.as_of,
                  series: Estrel::Campaigns::Responses.new(asked.whole.among(ids)).series })
      end

      # Which event types stand for messages.
      put("/campaigns/messaging", role: "administrator", scope: "administer", personal: "none",
                                  log: "settings changed") do
        names = Estrel::Campaigns::Messaging.new(given).to_h
        Workspace.current.update!(messaging: names)
        Workspace.catalogue_changed
        LedgerBuilding::Builder.new.refresh
        respond(names)
      end
    end
  end
end
