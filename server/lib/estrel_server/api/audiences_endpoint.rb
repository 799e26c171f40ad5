# frozen_string_literal: true

module EstrelServer
  module API
    # Audiences: previewed while being written, kept, renamed, deleted and brought back.
    class AudiencesEndpoint < Endpoint
      TREND_DAYS = 90

      post("/audiences/preview", role: "viewer", scope: "read",
                                 personal: "none", heavy: true) do
        respond(asked do |definition, question|
          Answers::Preview.new(definition, question).to_h
        end)
      end

      post("/audiences/sample", role: "viewer", scope: "read", personal: "masked", heavy: true) do
        columns = People.columns(given["columns"])
        respond(asked do |definition, question|
          { sample: Answers::Sample.new(definition, question, columns: columns).rows }
        end)
      end

      # The size as of each of the last days, for a definition that need not be kept.
      post("/audiences/trend", role: "viewer", scope: "read", personal: "none", heavy: true) do
        respond(asked { |definition, question| trend(definition, question) })
      end

      post("/audiences/movement", role: "viewer", scope: "read", personal: "masked", heavy: true) do
        respond(asked do |definition, question|
          from = day(given["from"], "from")
          raise Problem.new(422, "the start date must be before the as-of date") if from >= question.as_of

          Answers::Movement.new(definition, question, from).to_h
        end)
      end

      post("/audiences/why", role: "viewer", scope: "read", personal: "masked", heavy: true) do
        respond(asked do |definition, question|
          person = People::Person.new(person_id, question).profile.id
          Answers::Reasons.new(definition, question, person).to_h
        end)
      end

      get("/audiences/starting-points", role: "viewer", scope: "read", personal: "none") do
        points = Estrel::Audience::StartingPoints.new(generation, rule_set).all
        described = points.map { |point| describe_point(point) }
        # Those that nobody fits come last.
        respond({ starting_points: described.partition { |point| point[:size].positive? }.flatten })
      end

      get("/audiences", role: "viewer", scope: "read", personal: "none") do
        uses = References.uses
        rows = Audience.kept.includes(:versions, :owner).order(updated_at: :desc)
        respond({ audiences: rows.map { |row| { **describe_row(row), uses: uses.fetch(row.id, 0) } } })
      end

      post("/audiences", role: "analyst", scope: "write", personal: "none") do
        definition = parse_definition(given["definition"])
        audience = Audience.transaction do
          Audience.create!(name: name, **filed).tap { |row| row.keep(definition, generation.catalogue, author: author) }
        end
        respond(describe(audience.reload), status: 201)
      end

      get("/audiences/:id", role: "viewer", scope: "read", personal: "none") { respond(describe(shown_audience)) }

      # With the time of the last change the new one started from, what somebody else did meanwhile is not written over.
      put("/audiences/:id", role: "analyst", scope: "write", personal: "none") do
        definition = given["definition"] && parse_definition(given["definition"], of: audience)
        Audience.transaction do
          audience.lock!
          refuse_if_changed
          audience.name = name if given.key?("name")
          audience.assign_attributes(filed)
          audience.keep(definition, generation.catalogue, author: author) if definition
          audience.updated_at = Time.now.utc
          audience.save!
        end
        respond(describe(audience.reload))
      end

      delete("/audiences/:id", role: "analyst", scope: "write", personal: "none") do
        users = References.told(audience)
        raise Problem.new(409, "this audience is in use; remove it there first", users) if users.any?

        audience.update!(deleted_at: Time.now.utc)
        respond(describe(audience))
      end

      get("/audiences/:id/versions", role: "viewer", scope: "read", personal: "none") do
        shown = shown_audience.versions.select { |version| Access::Disclosure.definition?(version) }
        respond({ versions: shown.reverse.map { |version| describe_version(version) } })
      end

      # Makes an earlier definition the newest version again.
      post("/audiences/:id/versions/:number/restore", role: "analyst", scope: "write", personal: "none") do
        version = audience.versions.find_by!(number: path_id("number"))
        Audience.transaction do
          audience.lock!
          audience.keep(parse_definition(version.definition, of: audience), generation.catalogue,
                        author: author)
          audience.update!(updated_at: Time.now.utc)
        end
        respond(describe(audience.reload))
      end

      # Undoes a deletion.
      post("/audiences/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = Audience.visible.find(path_id)
        parse_definition(row.current.definition, of: row)
        row.update!(deleted_at: nil)
        respond(describe(row))
      end

      private

      def audience = @audience ||= Audience.kept.find(path_id)

      def shown_audience
        return audience if Access::Disclosure.definition?(audience.current)

        raise Problem.new(403, Access::Disclosure::HIDDEN)
      end

      def name = given["name"].to_s.strip

      def filed = given.slice("folder", "note").transform_values { |text| text.to_s.strip }

      # Gives the definition and the question of the request to a block.
      def asked = yield(parse_definition(given["definition"]), question(given))

      def person_id
        given["person"]
      end

      def refuse_if_changed
        return if given["updated_at"].nil? || given["updated_at"] == instant(audience.updated_at)

        raise Problem.new(409,
                          "someone else changed this audience; it is now version #{audience.current.number}")
      end

      def trend(definition, question)
        days = (question.as_of - TREND_DAYS + 1)..question.as_of
        { as_of: question.as_of, sizes: days.map { |date| question.evaluator(date).size(definition) } }
      end

      def describe_point(point)
        definition = parse_definition(point.definition)
        { name: point.name, definition: definition.to_h, sentence: question.sentence(definition).to_s,
          size: question.evaluator.size(definition) }
      end

      def describe(row)
        version = row.current
        { id: row.id, name: row.name, folder: row.folder, note: row.note, version: version.number,
          sentence: version.said, updated_at: row.updated_at.iso8601(6), deleted: !row.deleted_at.nil?,
          definition: version.definition, digest: version.digest, **row.belonging }
      end

      def describe_row(row)
        describe(row).except(:definition, :digest).merge(sentence: Access::Disclosure.sentence(row.current),
                                                         **count(row.current))
      end

      def describe_version(version)
        { number: version.number, sentence: version.said, definition: version.definition, digest: version.digest,
          conditions: conditions(version), author: version.author, created_at: instant(version.created_at) }
      end

      # Its conditions in words, for laying versions side by side; none where its names are no longer there.
      def conditions(version)
        definition = parse_definition(version.definition)
        definition.conditions.map { |condition| question.sentence(definition).text(condition) }
      rescue Estrel::Audience::Invalid
        []
      end

      # An audience whose names are no longer there has no size, but a reason.
      def count(version)
        return { size: nil, fault: Access::Disclosure::HIDDEN } unless Access::Disclosure.definition?(version)

        { size: question.evaluator.size(parse_definition(version.definition)), fault: nil }
      rescue Estrel::Error => e
        { size: nil, fault: e.message }
      end
    end
  end
end
