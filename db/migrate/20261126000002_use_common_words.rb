# frozen_string_literal: true

# Tables, columns and what is written in them take the names that the trade uses: rule sets, alerts, sending keys,
# never active, reactivated, profile type, exported, holdout.
class UseCommonWords < ActiveRecord::Migration[7.2]
  TABLES = { lifecycle_policies: :rule_sets, lifecycle_policy_versions: :rule_set_versions, watches: :alert_rules,
             notices: :alerts, write_keys: :sending_keys }.freeze
  COLUMNS = { rule_sets: { in_force: :default }, rule_set_versions: { lifecycle_policy_id: :rule_set_id },
              alert_rules: { lifecycle_policy_id: :rule_set_id }, alerts: { watch_id: :alert_rule_id },
              accounts: { read_notice_id: :read_alert_id },
              export_runs: { policy: :rule_set, known_on: :received_by } }.freeze
  ALERTS = { "replacement_below" => "gain_loss_below", "comeback_above" => "reactivation_above",
             "restated" => "revised" }.freeze
  EXPORT_COLUMNS = { "kind" => "profile_type", "quiet_days" => "inactive_days", "returned" => "reactivated" }.freeze
  STATES = %w[is from].freeze
  STEPS = { "handed_over" => "exported", "held_out" => "holdout" }.freeze

  def up
    TABLES.each { |from, to| rename_table from, to }
    COLUMNS.each { |table, columns| columns.each { |from, to| rename_column table, from, to } }
    rename_index :rule_set_versions, "policy_version_once", "rule_set_version_once"
    remove_check_constraint :rule_set_versions, name: "policy_version_number"
    add_check_constraint :rule_set_versions, "number >= 1", name: "rule_set_version_number"
    ALERTS.each { |from, to| execute("UPDATE alert_rules SET kind = #{quote(to)} WHERE kind = #{quote(from)}") }
    rewrite_definitions
    rewrite_exports
    rewrite("imports", "mapping") { |json| json.transform_keys("handles" => "custom_ids") }
    steps_of_runs
    # Both are derived, and made anew.
    FileUtils.rm_rf([EstrelServer.settings.ledger_directory, EstrelServer.settings.answers_directory])
  end

  private

  def rewrite(table, column)
    select_rows("SELECT id, #{column} FROM #{table} WHERE #{column} IS NOT NULL").each do |id, text|
      json = text.is_a?(String) ? JSON.parse(text) : text
      changed = yield json
      unless changed == json
        execute("UPDATE #{table} SET #{column} = #{quote(JSON.generate(changed))} WHERE id = #{id}")
      end
    end
  end

  # A digest names the definition as it is written.
  def rewrite_definitions
    rewrite("audience_versions", "definition") { |json| definition(json) }
    select_rows("SELECT id, definition FROM audience_versions").each do |id, text|
      digest = Digest::SHA256.hexdigest(JSON.generate(text.is_a?(String) ? JSON.parse(text) : text))
      execute("UPDATE audience_versions SET digest = #{quote(digest)}, " \
              "sentence = REPLACE(sentence, 'unseen', 'never active') WHERE id = #{id}")
    end
  end

  def definition(node)
    node.to_h do |key, body|
      case key
      when "all", "any" then [key, body.map { |inner| definition(inner) }]
      when "not" then [key, definition(body)]
      when "kind" then ["profile_type", body]
      when "lifecycle" then [key, lifecycle(body)]
      when "campaign" then [key, campaign(body)]
      else [key, body]
      end
    end
  end

  def lifecycle(body)
    renamed = body.transform_keys("policy" => "rule_set", "returned" => "reactivated")
    renamed.to_h { |key, value| [key, STATES.include?(key) ? states(value) : value] }
  end

  def campaign(body)
    body.transform_keys("run" => "streak").to_h do |key, value|
      next [key, "reactivated"] if key == "was" && value == "returned"

      [key, key == "from" ? states(value) : value]
    end
  end

  def states(names) = names.map { |name| name == "unseen" ? "never_active" : name }

  def rewrite_exports
    %w[exports export_runs].each do |table|
      rewrite(table, "rules") do |json|
        columns = json.fetch("columns", []).map do |column|
          column.is_a?(Hash) ? column.merge("take" => EXPORT_COLUMNS.fetch(column["take"], column["take"])) : column
        end
        json.merge("columns" => columns)
      end
    end
    rewrite("export_runs", "waterfall") { |json| json.transform_keys(STEPS) }
  end

  # What became of every member of an audience, run by run.
  def steps_of_runs
    Dir.glob(File.join(EstrelServer.settings.exports_directory, "steps-of-run-*.arrow")).each do |path|
      step = STEPS.reduce(Polars.col("step")) do |found, (from, to)|
        Polars.when(Polars.col("step") == from).then(Polars.lit(to)).otherwise(found)
      end
      frame = Polars.read_ipc(path, memory_map: false).with_columns([step.alias("step")])
      frame.write_ipc("#{path}.part", compression: "uncompressed")
      File.rename("#{path}.part", path)
    end
  end
end
