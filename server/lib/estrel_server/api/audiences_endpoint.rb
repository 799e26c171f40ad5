# frozen_string_literal: true

module EstrelServer
  module API
    # Audiences: previewed while being written, kept, renamed, deleted and brought back.
    class AudiencesEndpoint < Endpoint
      TREND_DAYS = 90

      post("/audiences/preview") do
        json = body_json
        definition = parse_definition(json["definition"])
        respond(Preview.new(definition, generation, as_of: as_of(json["as_of"]), policy: policy).to_h)
      end

      # The size as of each of the last days, for a definition that need not be kept.
      post("/audiences/trend") do
        json = body_json
        definition = parse_definition(json["definition"])
        last = as_of(json["as_of"])
        sizes = ((last - TREND_DAYS + 1)..last).map do |date|
          Asking.evaluator(generation, as_of: date, policy: policy).size(definition)
        end
        respond({ as_of: last, sizes: sizes })
      end

      get("/audiences") do
        rows = Audience.kept.includes(:versions).order(updated_at: :desc)
        respond({ audiences: rows.map { |row| describe(row, size: true) } })
      end

      post("/audiences") do
        json = body_json
        definition = parse_definition(json["definition"])
        audience = Audience.transaction { Audience.create!(name: name(json)).tap { |row| row.keep(definition) } }
        respond(describe(audience.reload), status: 201)
      end

      get("/audiences/:id") { respond(describe(audience)) }

      put("/audiences/:id") do
        json = body_json
        definition = json["definition"] && parse_definition(json["definition"], of: audience)
        Audience.transaction do
          audience.lock!
          audience.name = name(json) if json.key?("name")
          audience.keep(definition) if definition
          audience.updated_at = Time.now.utc
          audience.save!
        end
        respond(describe(audience.reload))
      end

      delete("/audiences/:id") do
        users = Asking.users_of(audience)
        if users.any?
          raise Problem.new(409, "other audiences refer to this one; change them first",
                            users.map { |user| { place: user.name, message: user.current.sentence } })
        end

        audience.update!(deleted_at: Time.now.utc)
        respond(describe(audience))
      end

      get("/audiences/:id/versions") do
        respond({ versions: audience.versions.reverse.map { |version| describe_version(version) } })
      end

      # Makes an earlier definition the newest version again.
      post("/audiences/:id/versions/:number/restore") do
        version = audience.versions.find_by!(number: whole("number", nil, ID))
        Audience.transaction do
          audience.lock!
          audience.keep(parse_definition(version.definition, of: audience))
          audience.update!(updated_at: Time.now.utc)
        end
        respond(describe(audience.reload))
      end

      # Undoes a deletion.
      post("/audiences/:id/restore") do
        row = Audience.find(whole("id", nil, ID))
        row.update!(deleted_at: nil)
        respond(describe(row))
      end

      private

      def audience = @audience ||= Audience.kept.find(whole("id", nil, ID))

      def name(json) = json["name"].to_s.strip

      def describe(row, size: false)
        version = row.current
        common = { id: row.id, name: row.name, version: version.number, sentence: version.sentence,
                   updated_at: row.updated_at.iso8601(6), deleted: !row.deleted_at.nil? }
        return common.merge(definition: version.definition, digest: version.digest) unless size

        common.merge(count(version))
      end

      def describe_version(version)
        { number: version.number, sentence: version.sentence, definition: version.definition, digest: version.digest,
          created_at: instant(version.created_at) }
      end

      # An audience whose names are no longer there has no size, but a reason.
      def count(version)
        evaluator = Asking.evaluator(generation, as_of: as_of, policy: policy)
        { size: evaluator.size(parse_definition(version.definition)), fault: nil }
      rescue Estrel::Error => e
        { size: nil, fault: e.message }
      end
    end
  end
end
