# frozen_string_literal: true

module EstrelServer
  module API
    # Conditions to be told of, and what there is to tell.
    class NoticesEndpoint < Endpoint
      LISTED = 200

      get("/notices", role: "viewer", scope: "read", personal: "none") do
        rows = visible.includes(:watch).order(about: :desc, id: :desc).limit(LISTED)
        respond({ unread: visible.where(id: (read_up_to + 1)..).count, notices: rows.map { |row| notice(row) },
                  watches: Watch.order(:id).includes(:lifecycle_policy).map { |row| watch(row) },
                  kinds: kinds })
      end

      post("/notices/read", role: "viewer", scope: "read", personal: "none") do
        Access::Current.account.update_columns(read_notice_id: Notice.maximum(:id) || 0)
        respond({ unread: 0 })
      end

      # Looked at at once, so that whoever asks sees what it would tell.
      post("/watches", role: "analyst", scope: "write", personal: "none") do
        json = given
        condition = Estrel::Lifecycle::Condition.new(json["kind"].to_s, json["settings"] || {})
        policy = json["policy"] && LifecyclePolicy.kept.find(json["policy"])
        row = Watch.create!(kind: condition.kind, settings: condition.settings, lifecycle_policy: policy)
        watching = Workers::Watching.new(generation)
        day = watching.last_ended
        watching.look(row, day) if day
        respond(watch(row), status: 201)
      end

      delete("/watches/:id", role: "analyst", scope: "write", personal: "none") do
        Watch.find(path_id).destroy!
        respond({ deleted: true })
      end

      private

      # Of runs of exports that whoever asks may see, and all of what is watched.
      def visible
        runs = ExportRun.where(export: Export.visible)
        Notice.where(export_run_id: nil).or(Notice.where(export_run_id: runs.select(:id)))
      end

      # Everybody reads them for herself.
      def read_up_to = Access::Current.account.read_notice_id

      def notice(row)
        { id: row.id, watch: row.watch_id, run: row.export_run_id, about: row.about, text: row.text,
          created_at: instant(row.created_at), read: row.id <= read_up_to }
      end

      def watch(row)
        { id: row.id, kind: row.kind, settings: row.settings, policy: row.lifecycle_policy_id,
          policy_name: row.lifecycle_policy&.name, said: Estrel::Lifecycle::Condition.new(row.kind, row.settings).to_s }
      end

      def kinds
        Estrel::Lifecycle::Condition::KINDS.map do |kind, settings|
          { kind: kind, settings: settings.map do |name, (default, range)|
            { name: name, default: default, least: range.begin, most: range.end, whole: range.begin.is_a?(Integer) }
          end }
        end
      end
    end
  end
end
