# frozen_string_literal: true

module EstrelServer
  module API
    # Conditions that are watched, and the alerts they raised.
    class AlertsEndpoint < Endpoint
      LISTED = 200

      get("/alerts", role: "viewer", scope: "read", personal: "none") do
        rows = visible.includes(:alert_rule).order(about: :desc, id: :desc).limit(LISTED)
        respond({ unread: visible.where(id: (read_up_to + 1)..).count, alerts: rows.map { |row| alert(row) },
                  alert_rules: AlertRule.order(:id).includes(:rule_set).map { |row| alert_rule(row) },
                  kinds: kinds })
      end

      post("/alerts/read", role: "viewer", scope: "read", personal: "none") do
        Access::Current.account.update_columns(read_alert_id: Alert.maximum(:id) || 0)
        respond({ unread: 0 })
      end

      # Looked at at once, so that whoever asks sees what it would tell.
      post("/alert-rules", role: "analyst", scope: "write", personal: "none") do
        json = given
        condition = Estrel::Lifecycle::AlertCondition.new(json["kind"].to_s, json["settings"] || {})
        rule_set = json["rule_set"] && RuleSet.kept.find(json["rule_set"])
        row = AlertRule.create!(kind: condition.kind, settings: condition.settings, rule_set: rule_set)
        alerting = Workers::Alerting.new(generation)
        day = alerting.last_ended
        alerting.look(row, day) if day
        respond(alert_rule(row), status: 201)
      end

      delete("/alert-rules/:id", role: "analyst", scope: "write", personal: "none") do
        AlertRule.find(path_id).destroy!
        respond({ deleted: true })
      end

      private

      # Of runs of exports that whoever asks may see, and all of the alert rules.
      def visible
        runs = ExportRun.where(export: Export.visible)
        Alert.where(export_run_id: nil).or(Alert.where(export_run_id: runs.select(:id)))
      end

      # Everybody reads them for herself.
      def read_up_to = Access::Current.account.read_alert_id

      def alert(row)
        { id: row.id, alert_rule: row.alert_rule_id, run: row.export_run_id, about: row.about, text: row.text,
          created_at: instant(row.created_at), read: row.id <= read_up_to }
      end

      def alert_rule(row)
        { id: row.id, kind: row.kind, settings: row.settings, rule_set: row.rule_set_id,
          rule_set_name: row.rule_set&.name, said: Estrel::Lifecycle::AlertCondition.new(row.kind, row.settings).to_s }
      end

      def kinds
        Estrel::Lifecycle::AlertCondition::KINDS.map do |kind, settings|
          { kind: kind, settings: settings.map do |name, (default, range)|
            { name: name, default: default, least: range.begin, most: range.end, whole: range.begin.is_a?(Integer) }
          end }
        end
      end
    end
  end
end
