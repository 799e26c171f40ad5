# frozen_string_literal: true

module FerrowickPost
  # Something that became of a message: when, by the pretend clock, and when the collector is told.
  class Happening < Record
    belongs_to :message

    scope :due, ->(now = Time.now.utc) { where(told: false).where(due_at: ..now) }

    # @return [Hash] a CloudEvent
    def to_event
      { "specversion" => "1.0", "id" => "#{message.message_key}:#{kind}", "source" => "campaigns", "type" => kind,
        "subject" => message.subject, "time" => occurs_at.iso8601(6),
        "data" => { "campaign" => message.campaign, "channel" => message.channel, "run" => message.run } }
    end
  end
end
