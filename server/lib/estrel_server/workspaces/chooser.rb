# frozen_string_literal: true

module EstrelServer
  module Workspaces
    # Stands before the application and finds out which workspace a request is for: the one that its address names by
    # /w/NAME/…, or else the one that the token or the sending key is for that it shows. The rest of the application
    # does not see that part of the address.
    class Chooser
      # linear: the run ends at a sign that it cannot hold
      ADDRESS = %r{\A(/w/([^/]*))(/.*)?\z}m
      BEARER = /\ABearer +/i
      NOTHING = "There is no workspace of that name, or it has been archived."
      private_constant :ADDRESS, :BEARER, :NOTHING

      # @param path [String, nil]
      # @param authorization [String, nil] the header
      # @return [Place, nil] the workspace that a request is for; nil where there is none of the name in its path
      def self.place(path, authorization)
        named = ADDRESS.match(path.to_s)&.captures&.at(1)
        name = named || Key.workspace(authorization.to_s.sub(BEARER, ""))
        return Workspaces.first if named.nil? && name == FIRST

        InstalledWorkspace.known(name)&.place
      end

      # @param app [#call]
      def initialize(app)
        @app = app
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        base, named, path = ADDRESS.match(env["PATH_INFO"])&.captures
        place = Chooser.place(env["PATH_INFO"], env["HTTP_AUTHORIZATION"])
        # What answers while it is written goes on in the thread that has asked.
        Workspaces.enter(place || Workspaces.first)
        return missing(path.to_s) if named && place.nil?

        base ? @app.call(env.merge("SCRIPT_NAME" => base, "PATH_INFO" => path || "/")) : @app.call(env)
      rescue *Database::Store::AWAY
        API::Problems.response(503, "the database does not answer; try again in a moment")
      end

      private

      def missing(path)
        return API::Problems.response(404, NOTHING) if path.start_with?("#{Application::Parts::API_PATH}/")

        [404, { "content-type" => "text/plain" }, [NOTHING]]
      end
    end
  end
end
