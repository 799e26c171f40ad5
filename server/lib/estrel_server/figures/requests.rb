# frozen_string_literal: true

module EstrelServer
  module Figures
    # Gives every request a number of its own, which its answer, the log, the database and the jobs it starts name, and
    # tells how long it took. Addresses are told by their route, since what stands in them may be personal.
    class Requests
      HEADER = "x-request-id"
      # Where in the environment a request's route stands, also of one that is refused.
      ROUTE = "estrel.route"

      # @param app [#call]
      def initialize(app)
        @app = app
      end

      def call(env)
        request = SecureRandom.hex(8)
        Log.with(request: request) do
          (status, headers, body), seconds = Figures.timed { @app.call(env) }
          told(env, status, seconds)
          [status, headers.merge(HEADER => request), body]
        end
      end

      private

      def told(env, status, seconds)
        route = env[ROUTE] || env["sinatra.route"]&.split(" ", 2)&.last || "none"
        verb = env["REQUEST_METHOD"]
        Figures.count(:requests_total, { route: route, method: verb, status: status.to_s })
        Figures.time(:request_seconds, seconds, { route: route })
        Log.info("request", method: verb, route: route, status: status, ms: (seconds * 1000).round(1))
      end
    end
  end
end
