# frozen_string_literal: true

module EstrelServer
  module API
    # Exports: plans to hand audiences over, a look at what a plan would do, and the starting of runs.
    class ExportsEndpoint < Endpoint
      SAMPLE = 10

      get("/exports", role: "viewer", scope: "read", personal: "none") do
        plans = Export.kept.includes(:audience, :destination, :pinned_version, :owner)
        respond({ exports: plans.order(:name).map { |export| Exporting::Text.plan(export) } })
      end

      post("/exports", role: "analyst", scope: "write", personal: "none") do
        row = Export.create!(attributes)
        row.schedule_next
        respond(Exporting::Text.plan(row), status: 201)
      end

      # What a plan would do, saved or not: nothing is handed over.
      post("/exports/try", role: "analyst", scope: "write", personal: "raw") do
        respond(tried(preparation(given["export"])))
      end

      # The people of one step of a plan, saved or not, who would be kept back or handed over.
      post("/exports/try/people", role: "analyst", scope: "write", personal: "raw") do
        ids = preparation(given["export"]).delivery.waterfall.ids(step(given["step"]))
        respond({ step: given["step"],
                  **question(given).people.page_of(ids, page: given.fetch("page", 1).to_i.clamp(1, 1_000_000)) })
      end

      get("/exports/:id", role: "viewer", scope: "read", personal: "none") do
        respond({ **Exporting::Text.plan(export), runs: Exporting::Text.runs(export.runs.limit(100)) })
      end

      put("/exports/:id", role: "analyst", scope: "write", personal: "none") do
        Export.transaction do
          export.lock!
          if given["updated_at"] && given["updated_at"] != instant(export.updated_at)
            raise Problem.new(409, "this export has been changed meanwhile; load it again")
          end

          export.update!(attributes)
          export.touch
          export.schedule_next
        end
        respond(Exporting::Text.plan(export.reload))
      end

      delete("/exports/:id", role: "analyst", scope: "write", personal: "none") do
        raise Problem.new(409, "a run of this export is under way; cancel it first") if export.runs.any?(&:under_way?)

        export.update!(deleted_at: Time.now.utc)
        respond(Exporting::Text.plan(export))
      end

      post("/exports/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = Export.visible.find(path_id)
        usable!(row)
        row.update!(deleted_at: nil)
        row.schedule_next
        respond(Exporting::Text.plan(row))
      end

      post("/exports/:id/runs", role: "analyst", scope: "write", personal: "none", log: "export started") do
        asked = question(given)
        preparation(export.id, asked).delivery
        run = ExportRun.start(export, as_of: asked.as_of, known_on: asked.known_on, policy: asked.policy)
        respond(Exporting::Text.run(run), status: 201)
      rescue ActiveRecord::RecordNotUnique
        raise Problem.new(409, "a run of this export is under way already")
      end

      private

      def export = @export ||= Export.kept.find(path_id)

      def attributes
        audience = Audience.kept.find_by(id: given["audience_id"]) or raise Problem.new(422, "choose an audience")
        version = named("version", "this audience has no such version") { |one| audience.versions.find_by(number: one) }
        destination = named("destination_id", "there is no such destination") do |id|
          Destination.kept.find_by(id: id)
        end
        plan = checked(given["rules"], (version || audience.current).definition)
        { name: given["name"].to_s.strip, audience: audience, pinned_version: version, destination: destination,
          rules: plan.to_h }
      end

      def named(key, missing)
        return if given[key].nil?

        yield(given[key]) || raise(Problem.new(422, missing))
      end

      # Brought back only with what it is made of.
      def usable!(row)
        missing = row.audience.deleted_at ? "audience" : ("destination" if row.destination&.deleted_at)
        raise Problem.new(409, "its #{missing} has been deleted") if missing

        checked(row.rules, row.version.definition)
      end

      # A plan that could be carried out today.
      def checked(rules, definition)
        plan = Estrel::Handover::Plan.parse(rules)
        unless plan.holdout.nil? || Holdout.exists?(plan.holdout)
          raise Problem.new(422, "there is no holdout with the number #{plan.holdout}")
        end

        missing = plan.lists - ContactList.where(id: plan.lists).ids
        raise Problem.new(422, "there is no list with the number #{missing.first}") if missing.any?

        check_events(plan)
        Estrel::Handover::Columns.new(question(given || params).whole, plan.columns, channel: plan.channel)
        parse_definition(definition)
        plan
      end

      def check_events(plan)
        types = generation.catalogue.event_types
        unknown = (plan.messaged&.events || []).find { |name| !types.key?(name) } or return
        raise Problem.new(422, "no event type \"#{unknown}\"#{Estrel::Catalogue.suggestion(unknown, types.keys)}")
      end

      # Of a saved plan by its number, or of one that is written out.
      def preparation(number, asked = question(given))
        saved = number && Export.kept.find(number)
        chosen = given["rules"] ? attributes : { audience: saved&.audience, pinned_version: saved&.pinned_version }
        raise Problem.new(422, "name a plan or write one out") unless chosen[:audience]

        plan = Estrel::Handover::Plan.parse(given["rules"] ? chosen[:rules] : saved.rules)
        version = chosen[:pinned_version] || chosen[:audience].current
        Exporting::Preparation.new(parse_definition(version.definition), plan, asked, export: saved)
      end

      def tried(preparation)
        sample = preparation.delivery.rows(SAMPLE)
        { as_of: as_of(given["as_of"]), people: preparation.delivery.counts, before: preparation.last_done&.waterfall,
          columns: sample.columns, rows: sample.rows }
      end

      def step(name)
        return name if Estrel::Handover::Waterfall::STEPS.include?(name)

        raise Problem.new(422, "step is one of #{Estrel::Handover::Waterfall::STEPS.join(", ")}")
      end
    end
  end
end
