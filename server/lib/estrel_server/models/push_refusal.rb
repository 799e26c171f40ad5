# frozen_string_literal: true

module EstrelServer
  # Somebody a destination did not take, and why; `again` once it has been asked to take the person again.
  class PushRefusal < Record
    belongs_to :push_batch

    scope :standing, -> { where(again: false) }

    # @param run [ExportRun]
    # @return [ActiveRecord::Relation<PushRefusal>] of the run that stand, by profile
    def self.of(run) = standing.where(push_batch_id: run.batches.select(:id)).order(:profile_id)
  end
end
