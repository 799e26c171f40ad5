# frozen_string_literal: true

module EstrelServer
  # One execution of an export: the export, definition, dates and rule set it used, what became of everybody, and the
  # file that came out.
  class ExportRun < Record
    UNDER_WAY = %w[queued waiting running].freeze

    attribute :rule_set, :json
    attribute :rules, :json
    attribute :waterfall, :json
    # Those carried out of which is known what became of whom.
    scope :recorded, -> { where(state: "done").where.not(waterfall: nil) }

    # Those by which somebody may have been reached, the ones that stopped half-way included.
    scope :reached, lambda {
      where.not(waterfall: nil).merge(where(state: "done").or(where(id: PushBatch.taken.select(:export_run_id))))
    }

    belongs_to :export
    belongs_to :audience_version
    has_many :batches, class_name: "EstrelServer::PushBatch", dependent: :delete_all, inverse_of: :export_run

    # How many people were exported by runs up to a date, by the export's name and channel.
    #
    # @param as_of [Date]
    # @return [Hash{Array(String, String) => Integer}]
    def self.exported_by_name(as_of)
      recorded.includes(:export).where(export: Export.visible,
                                       as_of: ..as_of).each_with_object(Hash.new(0)) do |run, sums|
        sums[[run.export.name, run.settings.channel]] += run.row_count || 0
      end
    end

    # Starts a run of an export in the background; there is one at a time.
    #
    # @param export [Export]
    # @param as_of [Date]
    # @param rule_set [Estrel::Lifecycle::RuleSet, nil]
    # @param received_by [Date, nil]
    # @param started_by [String] "hand" or "schedule"
    # @param note [String]
    # @param queued [Boolean] false: whoever starts it carries it out
    # @return [ExportRun]
    # @raise [ActiveRecord::RecordNotUnique] while another is under way
    def self.start(export, as_of:, rule_set:, received_by: nil, started_by: "hand", note: "", queued: true)
      transaction do
        run = create!(export: export, audience_version: export.version, rules: export.rules, as_of: as_of,
                      received_by: received_by, rule_set: rule_set&.to_h, started_by: started_by, note: note,
                      under_way: export.id, token: SecureRandom.uuid)
        run.enqueue if queued
        run
      end
    end

    # @param at [Time, nil] not before
    # @param goes_on [Boolean] whether it only passed its turn
    # @return [void]
    def enqueue(at = nil, goes_on: false) = Delayed::Job.enqueue(Jobs::ExportJob.new(id, goes_on), run_at: at)

    # Runs the block unless another worker is at this run. It is free again soon after its holder is gone.
    #
    # @yieldparam lease [Database::Lease]
    # @return [Boolean] whether it was run
    def alone(&)
      Database::Lease.new("run #{id}").hold(&)
      true
    rescue Database::Lease::Busy
      false
    end

    # @return [Boolean] whether people are left whom the destination has not received
    def half_way? = stopped? && batches.waiting.exists?

    # @return [Boolean] whether it ended before its end
    def stopped? = %w[failed cancelled].include?(state)

    # Goes on with a run that stopped half-way, or that has people to tell of again.
    #
    # @return [void]
    # @raise [ActiveRecord::RecordNotUnique] while another of the export is under way
    def go_on
      transaction do
        batches.waiting.update_all(attempts: 0, next_attempt_at: nil)
        update!(state: "queued", under_way: export_id, cancel_requested: false, error: nil, finished_at: nil)
        enqueue
      end
    end

    # Tells the destination once more of those whom it refused.
    #
    # @return [void]
    # @raise [Error] where no one was rejected
    # @raise [ActiveRecord::RecordNotUnique] while another of the export is under way
    def retry_refused
      transaction do
        lock!
        refusals = PushRefusal.of(self)
        raise Error, "no one was rejected" unless refusals.exists?

        Pushing::Batches.new(self).again(refusals)
        go_on
      end
    end

    # @return [Estrel::Exports::Settings]
    def settings = Estrel::Exports::Settings.parse(rules)

    # @return [Boolean]
    def under_way? = UNDER_WAY.include?(state)

    # Ends the run.
    #
    # @param state [String]
    # @param facts [Hash] attributes
    # @return [void]
    def finish(state, **facts)
      Alert.of_run(self, "Run failed; #{exported_so_far}. #{facts[:error]}") if state == "failed"
      update!(state: state, finished_at: Time.now.utc, under_way: nil, waits_because: nil, **facts)
      Pushing::Notice.of_run(self)
    end

    # @return [Exporting::RunFiles]
    def files = Exporting::RunFiles.new(self)

    # @return [Integer] people the destination has taken
    def taken_count = batches.taken.sum("row_count - refused_count")

    private

    def exported_so_far
      taken = taken_count
      return "nothing was exported" if taken.zero?

      "#{Estrel::English.number(taken)} people had been exported before"
    end
  end
end
