# frozen_string_literal: true

module EstrelServer
  module BodyLimits
    # The web server reads long bodies only on the routes that take files, and only from users who may upload them.
    class Web
      # linear: each part ends at a sign that it cannot hold
      UPLOAD = %r{\A(?:/w/[^/]+)?/api/imports(?:/inspect)?\z}
      # linear: for the same reason
      LIST = %r{\A(?:/w/[^/]+)?/api/contact-lists/\d+/values\z}
      private_constant :UPLOAD, :LIST

      # @param settings [Settings]
      def initialize(settings)
        @limits = { UPLOAD => settings.upload_mb * 1_000_000, LIST => API::DestinationsEndpoint::MAX_LIST }
      end

      # Signing in is looked up only for bodies that need it.
      #
      # @param env [Hash] of a request's head
      # @return [Integer, Refusal]
      def limit(env)
        longest = longest(env)
        return API::Endpoint::MAX_BODY if longest.nil? || short?(env)

        may_upload?(env) ? longest : Refusal.new(401, "sign in as an analyst to send more than 1 MiB")
      rescue *Database::Store::AWAY
        Refusal.new(503, "the database does not answer; try again in a moment")
      end

      private

      def longest(env)
        return unless env["REQUEST_METHOD"] == "POST"

        @limits.find { |path, _| path.match?(env["REQUEST_PATH"].to_s) }&.last
      end

      def short?(env) = env["CONTENT_LENGTH"] && env["CONTENT_LENGTH"].to_i <= API::Endpoint::MAX_BODY

      def may_upload?(env)
        BodyLimits.in_workspace(env) do
          bearer = Access::Bearer.of(Rack::Request.new(env.slice("HTTP_COOKIE", "HTTP_AUTHORIZATION")))
          !bearer.nil? && bearer.scope?("write") && bearer.at_least?("analyst")
        end
      end
    end
  end
end
