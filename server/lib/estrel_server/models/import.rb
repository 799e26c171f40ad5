# frozen_string_literal: true

module EstrelServer
  # One reading of one file, with its progress and outcome.
  #
  # While it runs, its process holds a database lock of its name; a "running" import whose lock is free was interrupted.
  class Import < Record
    attribute :mapping, :json
    has_many :rejects, dependent: :delete_all

    before_validation { self.observed_at ||= Time.current }
    after_create { Workspace.end_demo }

    # Marks imports whose process is gone as failed, so that nobody waits for them.
    #
    # @return [void]
    def self.settle_interrupted
      where(state: "running").find_each do |import|
        next unless connection.select_value("SELECT IS_FREE_LOCK(#{connection.quote(import.lock_name)})") == 1

        import.update!(state: "failed", finished_at: Time.current,
                       error: "interrupted; import the same file again to continue, nothing is stored twice")
      end
    end

    # @return [String]
    def lock_name = "#{self.class.connection.current_database}_import_#{id}"

    # @return [Boolean]
    def finished? = %w[done failed cancelled].include?(state)
  end
end
