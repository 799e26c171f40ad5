# frozen_string_literal: true

module EstrelServer
  module Answers
    # Rack middleware of the processes that answer heavy questions: a question ends its process when it takes longer
    # than it may and has not noticed so itself.
    class QuestionLimit
      # Header with the number of the request, for the log.
      REQUEST = "x-estrel-request"
      # Seconds in which a question that notices says so.
      GRACE = 1

      # @param app [#call]
      # @param seconds [Integer]
      def initialize(app, seconds)
        @app = app
        @seconds = seconds + GRACE
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        Deadline.set(@seconds)
        response = Log.with(request: env["HTTP_X_ESTREL_REQUEST"]) do
          status, headers, body = @app.call(env)
          [status, headers, Rack::BodyProxy.new(body) { Deadline.clear }]
        end
      ensure
        Deadline.clear unless response
      end
    end
  end
end
