# frozen_string_literal: true

module EstrelServer
  module API
    # Runs of exports: how they went, their files, and what became of everybody.
    class RunsEndpoint < Endpoint
      LISTED = 100
      TYPES = { "csv" => "text/csv; charset=utf-8", "jsonl" => "application/jsonl",
                "parquet" => "application/vnd.apache.parquet" }.freeze

      get("/runs", role: "viewer", scope: "read", personal: "none") do
        runs = ExportRun.where(export: Export.visible).includes(:export, audience_version: :audience)
                        .order(id: :desc).limit(LISTED)
        respond({ runs: Exporting::Text.runs(runs) })
      end

      get("/runs/:id", role: "viewer", scope: "read", personal: "none") { respond(Exporting::Text.run(run)) }

      get("/runs/:id/file", role: "analyst", scope: "write", personal: "raw", log: "export downloaded") do
        path = finished_file
        gone = run.files_removed_at && "the file of this run was removed: #{run.files_removed_because}"
        raise Problem.new(410, gone) if gone
        raise Problem.new(404, "this run has no file") unless path && File.file?(path)

        settings = run.settings.file
        packed = run.file_name.end_with?(".gz")
        send_file path, type: packed ? "application/gzip" : TYPES.fetch(settings["format"]),
                        filename: run.file_name, disposition: "attachment"
      end

      get("/runs/:id/manifest", role: "analyst", scope: "write", personal: "raw") do
        raise Problem.new(404, "this run has no manifest") unless run.manifest && finished_file

        content_type :json
        attachment "#{run.file_name}.manifest.json"
        run.manifest
      end

      # Who was excluded at a step, or exported.
      get("/runs/:id/people", role: "viewer", scope: "read", personal: "masked") do
        steps = Estrel::Exports::Waterfall::STEPS
        step = one_of("step", steps) or raise Problem.new(422, "a run has no such step; it has #{steps.join(", ")}")
        page = whole("page", 1, 1..10_000_000)
        raise Problem.new(409, "this run has not selected its people yet") unless run.state == "done"

        respond({ step: step,
                  **question({ "as_of" => run.as_of.iso8601 }).people.page_of(run.files.ids(step), page: page) })
      end

      post("/runs/:id/cancel", role: "analyst", scope: "write", personal: "none") do
        raise Problem.new(409, "this run has ended") unless run.under_way?

        run.update!(cancel_requested: true)
        # A worker that is at it sees to it itself.
        run.alone { run.finish("cancelled") if run.reload.under_way? }
        respond(Exporting::Text.run(run))
      end

      # Whom the destination did not take, and why.
      get("/runs/:id/refusals", role: "viewer", scope: "read", personal: "masked") do
        refusals = PushRefusal.of(run)
        page = whole("page", 1, 1..10_000_000)
        reasons = refusals.reorder(nil).group(:reason).count.sort_by { |_, count| -count }.first(20)
        people = question({ "as_of" => run.as_of.iso8601 }).people
        ids = Polars::Series.new("profile_id", refusals.pluck(:profile_id), dtype: Polars::Int64)
        respond({ reasons: reasons.map { |reason, count| { reason: reason, people: count } },
                  **people.page_of(ids, page: page) })
      end

      # Goes on with a push that stopped half-way.
      post("/runs/:id/resume", role: "analyst", scope: "write", personal: "none",
                               log: "export resumed") do
        raise Problem.new(409, "everything in this run has been exported") unless run.half_way?

        go_on { run.go_on }
      end

      # Tells the destination once more of those it refused.
      post("/runs/:id/retry-refused", role: "analyst", scope: "write", personal: "none",
                                      log: "export resumed") { go_on { run.retry_refused } }

      # A person's word that the number is right.
      post("/runs/:id/approve", role: "analyst", scope: "write", personal: "none", log: "export approved") do
        ExportRun.transaction do
          run.lock!
          raise Problem.new(409, "this run is not waiting for approval") unless run.state == "waiting"

          run.update!(state: "queued", approved: true, waits_because: nil)
          run.enqueue
        end
        respond(Exporting::Text.run(run))
      end

      private

      # Of a run that is done, or of which some have been told.
      def finished_file = (run.files.path if run.file_name && (run.state == "done" || run.batches.exists?))

      def go_on
        raise Problem.new(409, "this run is in progress") if run.under_way?

        yield
        respond(Exporting::Text.run(run.reload))
      rescue ActiveRecord::RecordNotUnique
        raise Problem.new(409, "another run of this export is in progress")
      end

      def run = @run ||= ExportRun.where(export: Export.visible).find(path_id)
    end
  end
end
