# frozen_string_literal: true

module EstrelServer
  module API
    # Exports: an audience, columns and a format, run in the background, and the file that came out.
    class ExportsEndpoint < Endpoint
      LISTED = 100

      get("/exports") do
        runs = ExportRun.includes(export: :audience, audience_version: []).order(id: :desc).limit(LISTED)
        respond({ runs: runs.map { |run| describe(run) } })
      end

      post("/exports") do
        json = body_json
        audience = Audience.kept.find_by(id: json["audience_id"]) or raise Problem.new(422, "choose an audience")
        columns = Array(json["columns"]).map(&:to_s).uniq
        Exporting::Columns.new(generation).check(columns)
        raise Problem.new(422, "format must be csv or jsonl") unless %w[csv jsonl].include?(json["format"])

        parse_definition(audience.current.definition)
        run = create(audience, columns, json)
        Delayed::Job.enqueue(Jobs::ExportJob.new(run.id))
        respond(describe(run), status: 201)
      end

      get("/exports/:id") { respond(describe(run)) }

      get("/exports/:id/file") do
        path = run.file_name && File.join(EstrelServer.settings.exports_directory, run.file_name)
        raise Problem.new(404, "this run has no file") unless path && File.file?(path)

        send_file path, type: run.export.format == "csv" ? "text/csv; charset=utf-8" : "application/jsonl",
                        filename: run.file_name, disposition: "attachment"
      end

      private

      def run = @run ||= ExportRun.find(whole("id", nil, ID))

      def create(audience, columns, json)
        date = as_of(json["as_of"])
        ExportRun.transaction do
          export = Export.create!(audience: audience, chosen_columns: columns, format: json["format"],
                                  neutralise_formulas: json["neutralise_formulas"] != false)
          export.runs.create!(audience_version: audience.current, as_of: date, policy: policy&.to_h)
        end
      end

      def describe(run)
        version = run.audience_version
        { id: run.id, audience_id: run.export.audience_id, audience: run.export.audience.name, version: version.number,
          sentence: version.sentence, definition: version.definition, columns: run.export.chosen_columns,
          format: run.export.format, neutralise_formulas: run.export.neutralise_formulas, as_of: run.as_of,
          state: run.state, row_count: run.row_count, bytes: run.bytes, sha256: run.sha256, file_name: run.file_name,
          error: run.error, created_at: run.created_at.iso8601(6), finished_at: run.finished_at&.iso8601(6) }
      end
    end
  end
end
