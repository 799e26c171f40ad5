# frozen_string_literal: true

module EstrelServer
  module API
    # Pages of saved analyses, figures and text: written, read as a file, talked about, and sent.
    class PagesEndpoint < Endpoint
      # Sendings that are told of.
      RUNS = 20

      get("/pages", role: "viewer", scope: "read", personal: "none") do
        rows = Page.kept.includes(:owner).order(updated_at: :desc)
        respond({ pages: rows.map { |row| describe(row) } })
      end

      post("/pages", role: "analyst", scope: "write", personal: "none") do
        row = Page.create!(blocks: [], **written)
        row.schedule_next
        respond(whole(row), status: 201)
      end

      get("/pages/:id", role: "viewer", scope: "read", personal: "none") { respond(whole(page)) }

      # With the time of the last change the new one started from, what somebody else did meanwhile is not written over.
      put("/pages/:id", role: "analyst", scope: "write", personal: "none") do
        Page.transaction do
          page.lock!
          if given["updated_at"] && given["updated_at"] != instant(page.updated_at)
            raise Problem.new(409, "someone else changed this report; reload it")
          end

          page.assign_attributes(written)
          page.updated_at = Time.now.utc
          page.save!
          page.schedule_next
        end
        respond(whole(page.reload))
      end

      delete("/pages/:id", role: "analyst", scope: "write", personal: "none") do
        page.update!(deleted_at: Time.now.utc, next_run_at: nil)
        respond(describe(page))
      end

      post("/pages/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = Page.visible.find(path_id)
        row.update_columns(deleted_at: nil)
        row.schedule_next
        respond(describe(row))
      end

      # One HTML file, with what it shows as of a date.
      get("/pages/:id/document.html", role: "viewer", scope: "read", personal: "none") do
        date = as_of
        reading = Pages::Reading.new(page, date, cancelled: method(:given_up?))
        html = Pages::Document.new(page, date, reading.shown).to_html
        content_type "text/html", charset: "utf-8"
        attachment Pages::Document.file_name(page, date)
        halt 200, html
      end

      post("/pages/:id/runs", role: "analyst", scope: "write", personal: "none", log: "page sent") do
        raise Problem.new(422, "choose a destination first") if page.destination.nil?

        run = PageRun.start(page, as_of: as_of(given["as_of"]))
        raise Problem.new(409, "the page is being sent already") if run.nil?

        respond(sending(run), status: 201)
      end

      post("/pages/:id/comments", role: "viewer", scope: "write", personal: "none") do
        row = page.comments.create!(text: given["text"].to_s.strip, account: Access::Current.account, author: author)
        respond(comment(row), status: 201)
      end

      delete("/pages/:id/comments/:comment", role: "viewer", scope: "write", personal: "none") do
        row = page.comments.find(path_id("comment"))
        raise Problem.new(403, "only its author can delete a comment") unless row.mine?

        row.destroy!
        respond({ deleted: true })
      end

      private

      def page = @page ||= Page.kept.find(path_id)

      def written
        found = given.slice("blocks", "schedule", "private").transform_keys(&:to_sym)
        found[:name] = given["name"].to_s.strip if given.key?("name")
        found[:destination] = destination(given["destination_id"]) if given.key?("destination_id")
        found
      end

      def destination(id)
        return if id.nil?

        Destination.kept.find_by(id: id) or raise Problem.new(422, "there is no such destination")
      end

      def describe(row)
        { id: row.id, name: row.name, blocks: row.blocks, schedule: row.schedule, destination_id: row.destination_id,
          destination: row.destination&.name, next_run_at: instant(row.next_run_at), **row.belonging,
          updated_at: instant(row.updated_at) }
      end

      def whole(row)
        { **describe(row), comments: row.comments.map { |one| comment(one) },
                           runs: row.runs.limit(RUNS).map { |run| sending(run) } }
      end

      def comment(row)
        { id: row.id, text: row.text, author: row.author, mine: row.mine?, written_at: instant(row.created_at) }
      end

      def sending(run)
        { id: run.id, as_of: run.as_of, state: run.state, error: run.error && Estrel::English.sentence(run.error),
          file_name: run.file_name, started_by: run.started_by, created_at: instant(run.created_at),
          finished_at: instant(run.finished_at) }
      end
    end
  end
end
