# frozen_string_literal: true

module EstrelServer
  module API
    # People as a list, and one of them.
    class PeopleEndpoint < Endpoint
      FACTS = %w[id profile_type state reactivated inactive_days first_day last_day].freeze
      CONFIRMATION = "erase this person"

      get("/people", role: "viewer", scope: "read", personal: "masked") do
        per_page = whole("per_page", 50, 1..People::PAGE_LIMIT)
        result = People.new(question, compared: compared.map { |_, definition| definition }, columns: columns)
                       .page(**filters, order: order, page: page_number, per_page: per_page)
        respond({ as_of: as_of, per_page: per_page, **result })
      end

      # Everybody who fits, as a file.
      get("/people.csv", role: "viewer", scope: "read", personal: "masked", log: "list of people downloaded") do
        content_type "text/csv", charset: "utf-8"
        attachment "people-#{as_of}.csv"
        body list
      end

      get("/people/:id", role: "viewer", scope: "read", personal: "masked") { respond(person.to_h) }

      get("/people/:id/audiences", role: "viewer", scope: "read", personal: "none") do
        respond({ as_of: as_of, audiences: person.audiences })
      end

      # Since when the person has been in an audience.
      get("/people/:id/audiences/:audience", role: "viewer", scope: "read", personal: "none") do
        definition = parse_definition(Audience.kept.find(path_id("audience")).current.definition)
        why = question.why(person.profile.id)
        respond({ member: why.member?(definition), since: why.member_since(definition),
                  looked_back_days: Estrel::Audience::Why::MAX_LOOK_BACK })
      end

      get("/people/:id/events", role: "viewer", scope: "read", personal: "masked") do
        per_page = whole("per_page", 50, 1..People::PAGE_LIMIT)
        until_day = params["until"].to_s.empty? ? nil : day(params["until"], "until")
        respond({ per_page: per_page, **person.timeline.page(type: params["type"], until_day: until_day,
                                                             page: page_number, per_page: per_page) })
      end

      get("/people/:id/everything.json", role: "analyst", scope: "write", personal: "raw",
                                         log: "person's data downloaded") do
        content_type :json
        attachment "person-#{person.profile.id}.json"
        JSON.pretty_generate(People::Dossier.new(person.profile).to_h)
      end

      post("/people/:id/erase", role: "administrator", scope: "administer", personal: "none",
                                log: "person erased") do
        json = given
        raise Problem.new(422, "say {\"confirm\": \"#{CONFIRMATION}\"} to do this") if json["confirm"] != CONFIRMATION

        reason = json["reason"].to_s.strip
        raise Problem.new(422, "enter a reason of at most 1000 characters") unless reason.length.between?(1, 1000)

        eraser = People::Eraser.new(person.profile, reason)
        erasure = eraser.erase
        respond({ erased_at: instant(erasure.erased_at), removed: erasure.removed.except("merges"),
                  remarks: eraser.remarks })
      end

      private

      def person
        @person ||= People::Person.new(path_id, question)
      end

      # Written while it is known who asks, not while it is sent: what is masked depends on it.
      def list
        file = Tempfile.create("people")
        File.unlink(file.path)
        file << line([*FACTS, "identifiers", *columns.map(&:as)])
        People.new(question, columns: columns).each_slice(**filters) do |rows|
          rows.each { |row| file << line([*row.values_at(*FACTS.map(&:to_sym)), identifiers(row), *row[:values]]) }
        end
        file.tap(&:rewind)
      end

      def line(row) = CSV.generate_line(row.map { |value| Estrel::Exports::RowsFile.harmless(value) }, row_sep: "\r\n")

      def identifiers(row) = row[:identifiers].map { |one| "#{one[:kind]}:#{one[:value]}" }.join("; ")

      def columns
        @columns ||= People.columns(JSON.parse(params["columns"] || "[]"))
      rescue JSON::ParserError
        raise Problem.new(422, "the columns must be a JSON list of columns as in exports")
      end

      def order
        position = params["order"].to_s[/\Acolumn:(\d)\z/, 1]&.to_i
        return position if position && columns[position]

        one_of("order", Estrel::Roster::ORDERS) || "last_day"
      end

      def page_number = whole("page", 1, 1..10_000_000)

      def filters
        raise Problem.new(403, "viewers cannot search for identifiers") if params["search"] && !Access::Disclosure.all?

        { state: one_of("state", Estrel::Lifecycle::STATES), profile_type: one_of("profile_type", People::TYPES),
          definitions: definitions, search: params["search"].to_s.empty? ? nil : params["search"], held_by: held_by }
      end

      # Only those whom a standing holdout holds.
      def held_by
        asked = params["held_by"] or return
        held = StandingHoldout.find_by(id: asked) or raise Problem.new(422, "this global holdout does not exist")
        held.rule
      end

      # The kept audience and the conditions of the moment that are asked for.
      def definitions
        audience = params["audience"] && Audience.kept.find(params["audience"]).current.definition
        written = params["definition"].to_s.empty? ? nil : params["definition"]
        [audience, written].compact.map { |definition| parse_definition(definition) }
      end
    end
  end
end
