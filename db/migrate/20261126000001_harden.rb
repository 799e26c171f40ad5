# frozen_string_literal: true

# What is personal and who says so, what failed and since when, whose alerts have been read, and when files went.
class Harden < ActiveRecord::Migration[7.2]
  FIELDS = %i[event_properties attribute_definitions].freeze

  def up
    mark_fields
    add_column :workspaces, :demo, :boolean, null: false, default: false
    add_column :write_keys, :demo, :boolean, null: false, default: false
    add_column :accounts, :read_notice_id, :bigint, null: false, default: 0
    remove_column :notices, :read_at
    add_column :imports, :starts, :integer, null: false, default: 0
    add_column :export_runs, :files_removed_at, :datetime, precision: 6
    add_column :export_runs, :files_removed_because, :string, limit: 255
    create_faults
    own_log
    hide_exports
  end

  private

  # Until somebody decides, what is suggested holds.
  def mark_fields
    FIELDS.each do |table|
      add_column table, :personal, :boolean
      add_column table, :personal_suggested, :boolean, null: false, default: false
      add_column table, :out_of_range, :boolean, null: false, default: false
      names = select_values("SELECT DISTINCT name FROM #{table}").select { |name| EstrelServer::Access::PersonalData.name?(name) }
      next if names.empty?

      execute("UPDATE #{table} SET personal_suggested = 1 WHERE name IN (#{names.map do |name|
        quote(name)
      end.join(", ")})")
    end
  end

  # A plan that hands over a private audience shows its name; so it is private too from now on.
  def hide_exports
    execute(<<~SQL)
      UPDATE exports JOIN audiences ON audiences.id = exports.audience_id
      SET exports.private = 1, exports.owner_id = audiences.owner_id WHERE audiences.private = 1
    SQL
  end

  # What keeps the log as it is works with the rights of whoever made it: from now on the owner of the tables.
  def own_log
    %w[UPDATE DELETE].each do |change|
      execute("DROP TRIGGER audit_entries_stay_#{change.downcase}")
      execute(<<~SQL)
        CREATE TRIGGER audit_entries_stay_#{change.downcase} BEFORE #{change} ON audit_entries FOR EACH ROW
          SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the log is only added to'
      SQL
    end
  end

  def create_faults
    create_table(:faults) do |t|
      t.string :process, limit: 64, null: false
      t.string :step, limit: 255, null: false
      t.string :message, limit: 1000, null: false
      t.integer :count, null: false, default: 1
      t.datetime :since, precision: 6, null: false
      t.datetime :last_at, precision: 6, null: false
      t.index %i[process step], unique: true
    end
  end
end
