# frozen_string_literal: true

require "rack"
require "rack/protection"
require "delayed_job_active_record"

module EstrelServer
  # The Rack application: protection and security headers before everything, the API under /api, and the built front
  # end for every other address.
  module Application
    HEADERS = {
      "content-security-policy" =>
        "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; " \
        "connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
      "x-content-type-options" => "nosniff", "referrer-policy" => "same-origin", "x-frame-options" => "DENY",
      "cross-origin-opener-policy" => "same-origin", "permissions-policy" => "camera=(), microphone=(), geolocation=()"
    }.freeze
    ENDPOINTS = [API::WorkspaceEndpoint, API::PeopleEndpoint, API::AudiencesEndpoint, API::ImportsEndpoint,
                 API::ExportsEndpoint, API::StudiesEndpoint, API::SourcesEndpoint, API::CatalogueEndpoint,
                 API::ArrivalsEndpoint, API::LifecycleEndpoint, API::PoliciesEndpoint, API::NoticesEndpoint,
                 API::RunsEndpoint, API::HandoverEndpoint, API::CampaignsEndpoint, API::SessionEndpoint,
                 API::AccountsEndpoint].freeze

    module_function

    # @param settings [Settings]
    # @return [#call]
    def build(settings = EstrelServer.settings)
      hosts = ["localhost", "127.0.0.1", "::1", "[::1]", settings.bind].uniq
      Rack::Builder.app do
        use SecurityHeaders
        use Rack::Deflater, if: ->(env, *) { env["PATH_INFO"] != API::LiveArrivals::PATH }
        use Rack::Protection::HostAuthorization, permitted_hosts: hosts, logging: false
        use Rack::Protection::HttpOrigin
        use Rack::Protection::PathTraversal
        use Access::Attempts.limited(settings)
        map(API::LiveArrivals::PATH) { run Access::Gate.new(API::LiveArrivals) }
        map("/api") { run Access::Gate.new(Rack::Cascade.new(ENDPOINTS, [404])) }
        run FrontEnd.new(File.join(ROOT, "web/dist"), settings.collector_port)
      end
    end

    # Adds the security headers to every answer.
    class SecurityHeaders
      def initialize(app)
        @app = app
      end

      def call(env)
        status, headers, body = @app.call(env)
        [status, HEADERS.merge(headers), body]
      end
    end

    # Serves the built front end; addresses of its own are answered with its one page. The browser sender and its
    # example page lie beside it; the example may speak to the collector.
    class FrontEnd
      SENDER = "/sender/"

      def initialize(directory, collector_port)
        @directory = directory
        @files = Rack::Files.new(directory)
        @sender_policy = HEADERS["content-security-policy"].sub("connect-src 'self'",
                                                                "connect-src 'self' http://*:#{collector_port}")
      end

      def call(env)
        path = env["PATH_INFO"]
        return sender(env) if path.start_with?(SENDER)
        return asset(env) if path.start_with?("/assets/") || path.match?(%r{\A/[\w-]+\.\w+\z})

        page = File.join(@directory, "index.html")
        unless File.file?(page)
          return [503, { "content-type" => "text/plain" }, ["The front end has not been built; run bin/start."]]
        end

        [200, { "content-type" => "text/html; charset=utf-8", "cache-control" => "no-cache" }, [File.read(page)]]
      end

      private

      # Other sites may load the script, and it keeps its address when it changes.
      def sender(env)
        status, headers, body = @files.call(env)
        [status, headers.merge("content-security-policy" => @sender_policy, "cache-control" => "no-cache",
                               "cross-origin-resource-policy" => "cross-origin"), body]
      end

      def asset(env)
        status, headers, body = @files.call(env)
        headers = headers.merge("cache-control" => "public, max-age=31536000, immutable") if status == 200
        [status, headers, body]
      end
    end
  end
end
