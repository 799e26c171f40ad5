# frozen_string_literal: true

module EstrelServer
  module BodyLimits
    # The collector reads bodies only where the sending key is valid.
    class Collector
      # @param env [Hash] of a request's head
      # @return [Integer, Refusal]
      def limit(env)
        known = BodyLimits.in_workspace(env) { Collecting::Directory.shared.source_of_request(env) }
        known ? Collecting::Application::MAX_BODY : Refusal.new(401, Collecting::Application::UNKNOWN_KEY)
      rescue ActiveRecord::ActiveRecordError, Trilogy::Error
        Refusal.new(503, "the store does not answer; send the request again")
      end
    end
  end
end
