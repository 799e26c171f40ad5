# frozen_string_literal: true

module FerrowickPost
  # One message to one person; its key is unique, so nobody is sent the same twice however often we are told of them.
  class Message < Record
    COLUMNS = %i[message_key subject person_state run campaign channel sent_at taken_at].freeze

    has_many :happenings, class_name: "FerrowickPost::Happening", dependent: :delete_all, inverse_of: :message

    # Takes people as a webhook tells of them; those known by their key are left as they are.
    #
    # @param data [Hash] of the webhook
    # @param people [Array<Hash>]
    # @param sent_at [Time]
    # @return [Integer] how many were not known before
    def self.take(data, people, sent_at)
      now = Time.now.utc
      return 0 if people.empty?

      shared = [data["run"], data["export"], data["channel"] || "email", sent_at, now]
      rows = people.map { |person| [person.fetch("key"), person["subject"], person.dig("fields", "state"), *shared] }
      add(COLUMNS, rows)
    end
  end
end
