# frozen_string_literal: true

module EstrelServer
  # Some people of a run that a destination receives in one message: a part of a file of people, and whether it was
  # taken. The part never changes, so a message that is sent again says the same.
  class PushBatch < Record
    belongs_to :export_run
    has_many :refusals, class_name: "EstrelServer::PushRefusal", dependent: :delete_all, inverse_of: :push_batch

    scope :waiting, -> { where(state: "waiting").order(:number) }
    scope :taken, -> { where(state: "taken") }

    # @return [String] the same for every attempt
    def message_id = "msg_#{export_run.token.delete("-")}_#{number}"

    # Notes that the destination took the people, but for some.
    #
    # @param refused [Array<Array(Integer, String, String)>] profile, key and reason
    # @return [void]
    def take(refused)
      transaction do
        taken = self.class.where(id: id, state: "waiting")
                    .update_all(state: "taken", taken_at: Time.now.utc, attempts: attempts + 1, error: nil,
                                next_attempt_at: nil, refused_count: refused.size)
        next if taken.zero? || refused.empty?

        PushRefusal.insert_all!(refused.map do |profile, key, reason|
          { push_batch_id: id, profile_id: profile, recipient_key: key, reason: reason[0, 500] }
        end)
      end
    end

    # Notes that an attempt failed.
    #
    # @param error [String]
    # @param next_attempt_at [Time, nil]
    # @return [void]
    def miss(error, next_attempt_at: nil)
      update!(attempts: attempts + 1, error: error[0, 500], next_attempt_at: next_attempt_at)
    end
  end
end
