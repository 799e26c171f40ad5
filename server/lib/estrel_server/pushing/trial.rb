# frozen_string_literal: true

module EstrelServer
  module Pushing
    # Tries a webhook with a message about nobody.
    class Trial
      # @param destination [Destination]
      # @param connection [Connection]
      def initialize(destination, connection = Connection.new(destination))
        @connection = connection
      end

      # @return [Hash] `works`, and `says`, in words
      def to_h
        answer, seconds = Figures.timed { @connection.post("msg_try_#{SecureRandom.hex(8)}", body) }
        works = answer.verdict == :taken
        { works: works, says: works ? format("response in %.2f s, message accepted", seconds) : answer.to_s }
      rescue Connection::NoAnswer, Connection::Impossible => e
        { works: false, says: e.message }
      ensure
        @connection.close
      end

      private

      def body
        JSON.generate({ type: "people.tried", timestamp: Time.now.utc.iso8601(6), data: { people: [] } })
      end
    end
  end
end
