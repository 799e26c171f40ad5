# frozen_string_literal: true

module EstrelServer
  module API
    # What stands beside dates: what people note, and what happened here that explains a figure, exports and changes of
    # rules.
    class AnnotationsEndpoint < Endpoint
      MOST = 1_000

      get("/annotations", role: "viewer", scope: "read", personal: "none") do
        rows = Annotation.visible.includes(:owner).order(:date, :id).last(MOST)
        happened = [*exports, *rules].sort_by { |one| one[:date] }
        respond({ annotations: rows.map { |row| describe(row) }, happened: happened })
      end

      post("/annotations", role: "analyst", scope: "write", personal: "none") do
        respond(describe(Annotation.create!(written)), status: 201)
      end

      put("/annotations/:id", role: "analyst", scope: "write", personal: "none") do
        annotation.update!(written)
        respond(describe(annotation))
      end

      delete("/annotations/:id", role: "analyst", scope: "write", personal: "none") do
        annotation.destroy!
        respond({ deleted: true })
      end

      private

      def annotation = @annotation ||= Annotation.visible.find(path_id)

      def written
        text = given["text"].to_s.strip
        { date: day(given["date"], "date"), text: text, private: given["private"] == true }
      end

      def describe(row) = { id: row.id, date: row.date, text: row.text, **row.belonging }

      def exports
        runs = ExportRun.where(export: Export.visible, state: "done").includes(:export).order(:as_of).last(MOST)
        runs.map { |run| { date: run.as_of, kind: "export", text: "Exported: #{run.export.name}" } }
      end

      def rules
        rows = RuleSetVersion.where(rule_set: RuleSet.kept).includes(:rule_set).order(:created_at).last(MOST)
        rows.map do |row|
          { date: local_day(row.created_at), kind: "rules",
            text: "Rules “#{row.rule_set.name}”, version #{row.number}" }
        end
      end

      def local_day(time) = Estrel::Calendar.new(Workspace.current.time_zone).day_of((time.to_r * 1_000_000).to_i)
    end
  end
end
