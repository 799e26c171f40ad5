# frozen_string_literal: true

module EstrelServer
  # What the models of the installation share, which are the same in all workspaces: their tables are those of the first
  # one's schema.
  class InstallationRecord < Record
    self.abstract_class = true

    def self.current_shard = Workspaces.first.shard
  end
end
