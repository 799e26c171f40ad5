# frozen_string_literal: true

module EstrelServer
  module API
    # Files uploaded to be imported, their progress, and the rows that were refused.
    class ImportsEndpoint < Endpoint
      LISTED = 50

      get("/imports", role: "viewer", scope: "read", personal: "none") do
        Import.settle_interrupted
        respond({ imports: Import.order(id: :desc).limit(LISTED).map { |row| describe(row) } })
      end

      post("/imports", role: "analyst", scope: "write", personal: "none") do
        mapping = Importing::Mapping.new(mapping_json)
        kind = one_of("kind", %w[events profiles]) || "events"
        import = Import.create!(kind: kind, file_name: File.basename(uploaded[:filename].to_s)[0, 255],
                                mapping: mapping.to_h, path: keep(uploaded), bytes_total: uploaded[:tempfile].size,
                                shape: params["shape"].to_s[/\A\h{40}\z/])
        Delayed::Job.enqueue(Jobs::ImportJob.new(import.id))
        respond(describe(import), status: 201)
      end

      # The beginning of a file, or all of it, looked at before it is imported.
      post("/imports/inspect", role: "analyst", scope: "write", personal: "none") do
        mapping = mapping_json
        given = { "kind" => one_of("kind", %w[events profiles]), "whole" => params["whole"] != "false",
                  "mapping" => mapping.empty? ? nil : mapping }
        respond(Importing::Inspection.new(uploaded[:tempfile].path, uploaded[:filename].to_s, given).result)
      end

      get("/imports/:id", role: "viewer", scope: "read", personal: "none") { respond(describe(import)) }

      post("/imports/:id/cancel", role: "analyst", scope: "write", personal: "none") do
        Import.transaction do
          import.lock!
          import.update!(cancel_requested: true) unless import.finished?
          if import.state == "queued"
            import.update!(state: "cancelled", finished_at: Time.now.utc, error: "cancelled before it started")
          end
        end
        respond(describe(import))
      end

      get("/imports/:id/rejects.csv", role: "analyst", scope: "write", personal: "raw") do
        rejects = import.rejects.order(:row_number, :id)
        content_type "text/csv", charset: "utf-8"
        attachment "rejects-of-import-#{import.id}.csv"
        stream do |out|
          out << CSV.generate_line(%w[row reason original], row_sep: "\r\n")
          rejects.in_batches(of: 1000) do |rows|
            rows.pluck(:row_number, :reason, :original).each { |row| out << line(row) }
          end
        end
      end

      private

      def line(row) = CSV.generate_line(row.map { |value| Estrel::Exports::RowsFile.harmless(value) }, row_sep: "\r\n")

      def import = @import ||= Import.find(path_id)

      def uploaded
        upload = params["file"]
        return upload if upload.is_a?(Hash) && upload[:tempfile]

        raise Problem.new(422, "choose a file to import")
      end

      def mapping_json
        return {} if params["mapping"].to_s.empty?

        json = JSON.parse(params["mapping"])
        json.is_a?(Hash) ? json : raise(Problem.new(422, "the mapping must be a JSON object"))
      rescue JSON::ParserError
        raise Problem.new(422, "the mapping is not valid JSON")
      end

      def keep(upload)
        directory = EstrelServer.settings.uploads_directory
        FileUtils.mkdir_p(directory)
        Disk.check(directory, upload[:tempfile].size)
        path = File.join(directory, SecureRandom.hex(12))
        FileUtils.cp(upload[:tempfile].path, path)
        path
      end

      def describe(row)
        reasons = row.rejected.zero? ? [] : row.rejects.group(:reason).order(Arel.sql("COUNT(*) DESC")).limit(5).count
        { id: row.id, kind: row.kind, file_name: row.file_name, state: row.state, bytes_total: row.bytes_total,
          bytes_done: row.bytes_done, rows_read: row.rows_read, stored: row.stored, already_known: row.already_known,
          rejected: row.rejected, conflicts: row.conflicts,
          error: row.error && Estrel::English.sentence(row.error), seconds: seconds(row),
          reasons: reasons.map { |reason, count| { reason: reason, count: count } },
          created_at: row.created_at.iso8601(6), finished_at: row.finished_at&.iso8601(6) }
      end

      def seconds(row) = row.started_at && ((row.finished_at || Time.now.utc) - row.started_at).round(1)
    end
  end
end
