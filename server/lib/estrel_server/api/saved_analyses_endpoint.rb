# frozen_string_literal: true

module EstrelServer
  module API
    # Analyses that are kept under a name: filed, shared, changed into new versions, deleted and brought back.
    class SavedAnalysesEndpoint < Endpoint
      get("/saved-analyses", role: "viewer", scope: "read", personal: "none") do
        rows = SavedAnalysis.kept.includes(:versions, :owner).order(updated_at: :desc)
        respond({ saved_analyses: rows.map { |row| describe(row) } })
      end

      post("/saved-analyses", role: "analyst", scope: "write", personal: "none") do
        saved = SavedAnalysis.transaction do
          SavedAnalysis.create!(filed).tap { |row| row.keep(*asked, author: author) }
        end
        respond(describe(saved.reload), status: 201)
      end

      get("/saved-analyses/:id", role: "viewer", scope: "read", personal: "none") do
        respond({ **describe(saved), versions: saved.versions.reverse.map { |row| version(row) } })
      end

      # With the time of the last change the new one started from, what somebody else did meanwhile is not written over.
      put("/saved-analyses/:id", role: "analyst", scope: "write", personal: "none") do
        SavedAnalysis.transaction do
          saved.lock!
          refuse_if_changed
          saved.assign_attributes(given.key?("name") ? filed : filed.except(:name))
          saved.keep(*asked, author: author) if given.key?("question")
          saved.updated_at = Time.now.utc
          References.check_private(saved) if saved.private
          saved.save!
        end
        respond(describe(saved.reload))
      end

      delete("/saved-analyses/:id", role: "analyst", scope: "write", personal: "none") do
        users = References.told(saved)
        raise Problem.new(409, "it is used in a report; remove it there first", users) if users.any?

        saved.update!(deleted_at: Time.now.utc)
        respond(describe(saved))
      end

      post("/saved-analyses/:id/restore", role: "analyst", scope: "write", personal: "none") do
        row = SavedAnalysis.visible.find(path_id)
        row.update!(deleted_at: nil)
        respond(describe(row))
      end

      private

      def saved = @saved ||= SavedAnalysis.kept.find(path_id)

      def filed
        texts = given.slice("folder", "note").transform_values { |text| text.to_s.strip }
        { name: given["name"].to_s.strip, **texts.transform_keys(&:to_sym),
          **(given.key?("private") ? { private: given["private"] } : {}) }
      end

      def asked = [given["analysis"].to_s, given["question"], given["asks"]]

      def refuse_if_changed
        return if given["updated_at"].nil? || given["updated_at"] == instant(saved.updated_at)

        raise Problem.new(409, "someone else changed this analysis; it is now version #{saved.current.number}")
      end

      def describe(row)
        { id: row.id, name: row.name, folder: row.folder, note: row.note, **version(row.current), **row.belonging,
          updated_at: instant(row.updated_at) }
      end

      def version(row)
        { version: row.number, analysis: row.analysis, question: row.question, asks: row.asks, author: row.author,
          written_at: instant(row.created_at) }
      end
    end
  end
end
