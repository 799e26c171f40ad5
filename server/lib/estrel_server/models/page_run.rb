# frozen_string_literal: true

module EstrelServer
  # A page written to a file and sent to its destination, once.
  class PageRun < Record
    UNDER_WAY = %w[queued running].freeze

    belongs_to :page, inverse_of: :runs

    scope :under_way, -> { where(state: UNDER_WAY) }

    # Has a page sent in the background; there is one sending at a time.
    #
    # @param page [Page]
    # @param as_of [Date]
    # @param started_by [String] "hand" or "schedule"
    # @return [PageRun, nil] nil while another is under way
    def self.start(page, as_of:, started_by: "hand")
      page.with_lock do
        next if page.runs.under_way.exists?

        run = create!(page: page, as_of: as_of, started_by: started_by, token: SecureRandom.uuid)
        Delayed::Job.enqueue(Jobs::PageJob.new(run.id))
        run
      end
    end

    # @param state [String]
    # @param facts [Hash] attributes
    # @return [void]
    def finish(state, **facts) = update!(state: state, finished_at: Time.now.utc, **facts)

    # @return [Boolean]
    def under_way? = UNDER_WAY.include?(state)
  end
end
