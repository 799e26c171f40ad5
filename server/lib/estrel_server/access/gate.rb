# frozen_string_literal: true

module EstrelServer
  module Access
    # Stands before the API and finds out who asks, from a session's cookie or a token. Whether they may is judged by
    # each route, see {Rule}.
    #
    # Every address of the API has one form: lower-case words, numbers without signs or leading zeros, nothing encoded.
    # Any other spelling is no address of it.
    class Gate
      CANONICAL = %r{\A(?:/[a-z][a-z-]*(?:\.[a-z]+)?|/[1-9]\d{0,18})+\z} # linear: every segment begins with its slash
      # What somebody who has not signed in may send, bytes.
      STRANGER_BODY = 64 << 10

      # @param app [#call]
      def initialize(app)
        @app = app
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        unless CANONICAL.match?(env["PATH_INFO"])
          return API::Problems.response(404, "there is nothing under this address")
        end

        bearer = Bearer.of(Rack::Request.new(env))
        if bearer.nil? && env["CONTENT_LENGTH"].to_i > STRANGER_BODY
          return API::Problems.response(413, "the request is longer than #{STRANGER_BODY} bytes; sign in first")
        end

        Current.set(bearer: bearer) { @app.call(env) }
      rescue *Database::Store::AWAY
        API::Problems.response(503, "the database is not responding; try again in a moment")
      rescue Errno::ENOSPC, ActiveRecord::StatementInvalid => e
        Log.error("a request could not be admitted", e)
        full = API::Problems.disk_full?(e)
        API::Problems.response(full ? 503 : 500, full ? API::Problems::DISK_FULL : API::Problems.unforeseen)
      end
    end
  end
end
