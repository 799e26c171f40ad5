# frozen_string_literal: true

module EstrelServer
  # One execution of an export: the plan, definition, dates and policy it used, what became of everybody, and the file
  # that came out.
  class ExportRun < Record
    UNDER_WAY = %w[queued waiting running].freeze

    attribute :policy, :json
    attribute :rules, :json
    attribute :waterfall, :json
    # Those carried out of which is known what became of whom.
    scope :recorded, -> { where(state: "done").where.not(waterfall: nil) }

    belongs_to :export
    belongs_to :audience_version

    # Starts a run of a plan in the background; there is one at a time.
    #
    # @param export [Export]
    # @param as_of [Date]
    # @param policy [Estrel::Lifecycle::Policy, nil]
    # @param known_on [Date, nil]
    # @param started_by [String] "hand" or "schedule"
    # @param note [String]
    # @param queued [Boolean] false: whoever starts it carries it out
    # @return [ExportRun]
    # @raise [ActiveRecord::RecordNotUnique] while another is under way
    def self.start(export, as_of:, policy:, known_on: nil, started_by: "hand", note: "", queued: true)
      transaction do
        run = create!(export: export, audience_version: export.version, rules: export.rules, as_of: as_of,
                      known_on: known_on, policy: policy&.to_h, started_by: started_by, note: note,
                      under_way: export.id)
        run.enqueue if queued
        run
      end
    end

    # @return [void]
    def enqueue = Delayed::Job.enqueue(Jobs::ExportJob.new(id))

    # @return [Estrel::Handover::Plan]
    def plan = Estrel::Handover::Plan.parse(rules)

    # @return [Boolean]
    def under_way? = UNDER_WAY.include?(state)

    # Ends the run.
    #
    # @param state [String]
    # @param facts [Hash] attributes
    # @return [void]
    def finish(state, **facts)
      Notice.of_run(self, "the run failed, nothing was handed over. #{facts[:error]}") if state == "failed"
      update!(state: state, finished_at: Time.now.utc, under_way: nil, waits_because: nil, **facts)
    end

    # @return [Exporting::RunFiles]
    def files = Exporting::RunFiles.new(self)
  end
end
