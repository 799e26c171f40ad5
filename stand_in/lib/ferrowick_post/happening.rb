# frozen_string_literal: true

module FerrowickPost
  # Something that became of a message: when, by the pretend clock, and when the collector is told.
  class Happening < Record
    belongs_to :message

    scope :due, ->(now = Time.now.utc) { where(told: false).where(due_at: ..now) }

    # Whoever unsubscribes withdraws consent to the channel too.
    #
    # @return [Array<Hash>] CloudEvents; none where it is not known whom they are about
    def to_events
      return [] unless message.subject

      told = event(kind, kind, { "campaign" => message.campaign, "channel" => message.channel, "run" => message.run })
      return [told] unless kind == "message_unsubscribed"

      withdrawn = { "channel" => message.channel, "given" => false,
                    "evidence" => "unsubscribed from #{message.campaign}" }
      [told, event("consent", "estrel.consent", withdrawn)]
    end

    private

    def event(suffix, type, data)
      { "specversion" => "1.0", "id" => "#{message.message_key}:#{suffix}", "source" => "campaigns", "type" => type,
        "subject" => message.subject, "time" => occurs_at.iso8601(6), "data" => data }
    end
  end
end
