# frozen_string_literal: true

module EstrelServer
  # What the models of the installation share, which are the same in all workspaces: their tables are those of the first
  # one's schema.
  class InstallationRecord < Record
    self.abstract_class = true

    def self.current_shard = Workspaces.first.shard

    # Notes that a session or token was used. Where nothing can be written, as with a full disk, what was stored can
    # still be read.
    #
    # @return [void]
    def note_use
      update_columns(used_at: Time.now.utc)
    rescue *Database::Store::AWAY
      raise
    rescue ActiveRecord::StatementInvalid => e
      Log.error("the use of a session or token cannot be noted", e)
    end
  end
end
