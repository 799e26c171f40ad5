# frozen_string_literal: true

module EstrelServer
  # One reading of one file, with its progress and outcome.
  #
  # While it runs, its process holds a database lock of its name; a "running" import whose lock is free was interrupted.
  class Import < Record
    # How often the reading of one file is begun in a worker.
    MAX_STARTS = 3

    attribute :mapping, :json
    has_many :rejects, dependent: :delete_all

    before_validation { self.observed_at ||= Time.current }
    after_create { Workspace.end_demo }
    after_update_commit :remove_upload, if: :finished?
    after_update_commit :count_rows

    # Marks imports whose process is gone as failed, so that nobody waits for them.
    #
    # @return [void]
    def self.settle_interrupted
      where(state: "running").find_each do |import|
        next unless import.lease.free?

        import.update!(state: "failed", finished_at: Time.current,
                       error: "interrupted; import the same file again to continue, nothing is stored twice")
      end
    end

    # A file on which the process that reads it dies again and again must not hold up the others.
    #
    # @return [void]
    def give_up
      update!(state: "failed", finished_at: Time.now.utc,
              error: "import stopped: reading this file crashed #{MAX_STARTS} times")
    end

    # An uploaded file is kept until it has been read, whatever came of that.
    #
    # @return [void]
    def remove_upload
      FileUtils.rm_f(path) if path.start_with?(File.join(EstrelServer.settings.uploads_directory, ""))
    end

    # Counts what has come since the last time it was saved.
    #
    # @return [void]
    def count_rows
      { "stored" => "stored", "already_known" => "known", "rejected" => "rejected" }.each do |column, outcome|
        before, now = saved_change_to_attribute(column)
        Figures.count(:imported_rows_total, { outcome: outcome }, by: now - before) if now
      end
    end

    # @return [Database::Lease] held while the file is read
    def lease = Database::Lease.new("import #{id}")

    # @return [Boolean]
    def finished? = %w[done failed cancelled].include?(state)
  end
end
