# frozen_string_literal: true

module EstrelServer
  module API
    # Exports, a look at what an export would do, and the starting of runs.
    class ExportsEndpoint < Endpoint
      SAMPLE = 10

      get("/exports", role: "viewer", scope: "read", personal: "none") do
        exports = Export.kept.includes(:audience, :destination, :pinned_version, :owner)
        respond({ exports: exports.order(:name).map { |export| Exporting::Text.export(export) } })
      end

      post("/exports", role: "analyst", scope: "write", personal: "none") do
        row = Export.create!(attributes)
        row.schedule_next
        respond(Exporting::Text.export(row), status: 201)
      end

      # What an export would do, saved or not: nothing is exported.
      post("/exports/try", role: "analyst", scope: "write", personal: "raw", heavy: true) do
        respond(tried(preparation(given["export"])))
      end

      # The people of one step of an export, saved or not, who would be excluded or exported.
      post("/exports/try/people", role: "analyst", scope: "write", personal: "raw", heavy: true) do
        ids = preparation(given["export"]).delivery.waterfall.ids(step(given["step"]))
        respond({ step: given["step"],
                  **question(given).people.page_of(ids, page: given.fetch("page", 1).to_i.clamp(1, 1_000_000)) })
      end

      get("/exports/:id", role: "viewer", scope: "read", personal: "none") do
        respond({ **Exporting::Text.export(export), runs: Exporting::Text.runs(export.runs.limit(100)) })
      end

      put("/exports/:id", role: "analyst", scope: "write", personal: "none") do
        changes = attributes # computes, which takes too long for others to wait for the row
        Export.transaction do
          export.lock!
          if given["updated_at"] && given["updated_at"] != instant(export.updated_at)
            raise Problem.new(409, "someone else changed this export; reload it")
          end

          export.update!(changes)
          export.touch
          export.schedule_next
        end
        respond(Exporting::Text.export(export.reload))
      end

      delete("/exports/:id", role: "analyst", scope: "write", personal: "none") do
        raise Problem.new(409, "this export is running; cancel the run first") if export.runs.any?(&:under_way?)

        export.update!(deleted_at: Time.now.utc)
        respond(Exporting::Text.export(export))
      end

      post("/exports/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = Export.visible.find(path_id)
        usable!(row)
        row.update!(deleted_at: nil)
        row.schedule_next
        respond(Exporting::Text.export(row))
      end

      post("/exports/:id/runs", role: "analyst", scope: "write", personal: "none", log: "export started") do
        asked = question(given)
        preparation(export.id, asked).delivery
        run = ExportRun.start(export, as_of: asked.as_of, received_by: asked.received_by, rule_set: asked.rule_set)
        respond(Exporting::Text.run(run), status: 201)
      rescue ActiveRecord::RecordNotUnique
        raise Problem.new(409, "this export is already running")
      end

      private

      def export = @export ||= Export.kept.find(path_id)

      def attributes
        audience = Audience.kept.find_by(id: given["audience_id"]) or raise Problem.new(422, "choose an audience")
        version = named("version", "this audience has no such version") { |one| audience.versions.find_by(number: one) }
        destination = named("destination_id", "there is no such destination") do |id|
          Destination.kept.find_by(id: id)
        end
        settings = checked(given["rules"], (version || audience.current).definition)
        { name: given["name"].to_s.strip, audience: audience, pinned_version: version, destination: destination,
          rules: settings.to_h }
      end

      def named(key, missing)
        return if given[key].nil?

        yield(given[key]) || raise(Problem.new(422, missing))
      end

      # Brought back only with what it is made of.
      def usable!(row)
        missing = row.audience.deleted_at ? "audience" : ("destination" if row.destination&.deleted_at)
        raise Problem.new(409, "the #{missing} of this export has been deleted") if missing

        checked(row.rules, row.version.definition)
      end

      # An export that could be carried out today.
      def checked(rules, definition)
        settings = Estrel::Exports::Settings.parse(rules)
        unless settings.holdout.nil? || Holdout.exists?(settings.holdout)
          raise Problem.new(422, "the holdout of this export does not exist")
        end

        missing = settings.lists - ContactList.where(id: settings.lists).ids
        raise Problem.new(422, "a list that this export excludes does not exist") if missing.any?

        check_events(settings)
        asked = question(given || params)
        Estrel::Exports::Columns.new(asked.whole, settings.columns, channel: settings.channel,
                                                                    chances: ChanceModel.of(asked))
        parse_definition(definition)
        settings
      end

      def check_events(settings)
        types = generation.catalogue.event_types
        unknown = (settings.messaged&.events || []).find { |name| !types.key?(name) } or return
        raise Problem.new(422,
                          "there is no event type \"#{unknown}\"#{Estrel::Catalogue.suggestion(unknown, types.keys)}")
      end

      # Of a saved export by its number, or of one that is written out.
      def preparation(number, asked = question(given))
        saved = number && Export.kept.find(number)
        chosen = given["rules"] ? attributes : { audience: saved&.audience, pinned_version: saved&.pinned_version }
        raise Problem.new(422, "choose an audience to export") unless chosen[:audience]

        settings = Estrel::Exports::Settings.parse(given["rules"] ? chosen[:rules] : saved.rules)
        version = chosen[:pinned_version] || chosen[:audience].current
        Exporting::Preparation.new(parse_definition(version.definition), settings, asked, export: saved)
      end

      def tried(preparation)
        sample = preparation.delivery.rows(SAMPLE)
        { as_of: as_of(given["as_of"]), people: preparation.delivery.counts, before: preparation.last_done&.waterfall,
          columns: sample.columns, rows: sample.rows }
      end

      def step(name)
        return name if Estrel::Exports::Waterfall::STEPS.include?(name)

        raise Problem.new(422, "an export has no such step; it has #{Estrel::Exports::Waterfall::STEPS.join(", ")}")
      end
    end
  end
end
