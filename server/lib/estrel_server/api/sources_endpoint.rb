# frozen_string_literal: true

module EstrelServer
  module API
    # Sources, and the sending keys with which they send to the collector.
    class SourcesEndpoint < Endpoint
      DEFAULT_OVERLAP = 24

      get("/sources", role: "viewer", scope: "read", personal: "none") do
        rows = Source.includes(:sending_keys).order(:name)
        respond({ collector: collector, sources: rows.map { |row| describe(row) } })
      end

      post("/sources", role: "administrator", scope: "administer", personal: "none",
                       log: "source or key changed") do
        json = given
        row, key = Source.transaction do
          made = Source.new(settings_of(json, name: json["name"].to_s.strip))
          made.save!(context: :by_hand)
          [made, SendingKey.issue(made).last]
        end
        Workspace.catalogue_changed
        respond({ source: describe(row.reload), key: key }, status: 201)
      end

      put("/sources/:id", role: "administrator", scope: "administer", personal: "none",
                          log: "source or key changed") do
        source.update!(settings_of(given))
        respond(describe(source))
      end

      # A further key; those in use end after the overlap.
      post("/sources/:id/keys", role: "administrator", scope: "administer", personal: "none",
                                log: "source or key changed") do
        hours = given.fetch("overlap_hours", DEFAULT_OVERLAP)
        unless hours.is_a?(Integer) && hours.between?(0, SendingKey::MAX_OVERLAP)
          raise Problem.new(422, "the hours the old key still works must be a whole number from 0 to #{SendingKey::MAX_OVERLAP}")
        end

        _, key = source.rotate_key(hours)
        respond({ source: describe(source.reload), key: key }, status: 201)
      end

      delete("/sources/:id/keys/:key", role: "administrator", scope: "administer", personal: "none",
                                       log: "source or key changed") do
        key = source.sending_keys.find(path_id("key"))
        key.update!(revoked_at: Time.now.utc) unless key.revoked_at
        respond(describe(source.reload))
      end

      private

      def source = @source ||= Source.find(path_id)

      def collector = "#{EstrelServer.settings.collector_url}/events"

      def settings_of(json, **others)
        { description: json["description"].to_s, allowed_types: allowed_types(json["allowed_types"]),
          events_per_minute: json["events_per_minute"], **others }
      end

      def allowed_types(value)
        return if value.nil? || value == []
        return value.uniq if value.is_a?(Array) && value.all? do |name|
          name.is_a?(String) && name.length.between?(1, 255)
        end

        raise Problem.new(422, "the allowed event types must be a list of names")
      end

      def describe(row)
        { id: row.id, name: row.name, description: row.description, allowed_types: row.allowed_types,
          events_per_minute: row.events_per_minute, created_at: instant(row.created_at),
          keys: row.sending_keys.map { |key| describe_key(key) } }
      end

      def describe_key(key)
        { id: key.id, hint: key.hint, state: key.state, created_at: instant(key.created_at),
          expires_at: instant(key.expires_at), revoked_at: instant(key.revoked_at),
          last_used_at: instant(key.last_used_at) }
      end
    end
  end
end
