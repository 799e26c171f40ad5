# frozen_string_literal: true

require "rack"
require "rack/protection"

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
                 API::ExportsEndpoint, API::AnalysesEndpoint, API::SourcesEndpoint, API::CatalogueEndpoint,
                 API::LiveEventsEndpoint, API::LifecycleEndpoint, API::RuleSetsEndpoint, API::AlertsEndpoint,
                 API::RunsEndpoint, API::DestinationsEndpoint, API::CampaignsEndpoint, API::SessionEndpoint,
                 API::PasskeysEndpoint, API::AccountsEndpoint, API::AnnotationsEndpoint, API::SavedAnalysesEndpoint, API::PagesEndpoint,
                 API::GroupingsEndpoint, API::StandingHoldoutsEndpoint, API::WorkspacesEndpoint].freeze

    module_function

    # @param settings [Settings]
    # @return [#call]
    def build(settings = EstrelServer.settings)
      front_end = FrontEnd.new(File.join(ROOT, "web/dist"), collectors(settings))
      Rack::Builder.app do
        use Unread
        use Access::Proxy, settings.trusted_proxies
        use SecurityHeaders, https: settings.https?
        use BodyLimits::Answering
        use Rack::Deflater
        use Rack::Protection::HostAuthorization, permitted_hosts: settings.hosts, logging: false
        use Rack::Protection::HttpOrigin, permitted_origins: [settings.public_url]
        use Workspaces::Chooser
        run Parts.new(*Application.parts(settings), front_end: front_end)
      end
    end

    # @param settings [Settings]
    # @return [Array<#call>] the API, what watches over it, its figures, and signing in by a provider
    def parts(settings)
      health = Health.new(settings.var)
      api = Figures::Requests.new(Answers::Turns.new(gate, settings))
      [api, health, Figures::Page.new(health, settings),
       Access::ProviderSignIn.new(Access::Provider.of(settings), settings)]
    end

    # What the web server forwards heavy questions to, see {Answers::ForwardedQuestion}.
    #
    # @param settings [Settings]
    # @return [#call]
    def questions(settings = EstrelServer.settings)
      api = gate
      Rack::Builder.app do
        use Answers::QuestionLimit, settings.question_seconds
        use Workspaces::Chooser
        map(Parts::API_PATH) { run api }
      end
    end

    # Finds out who asks, and answers all of a request as of one moment.
    #
    # @return [#call]
    def gate
      gate = Access::Gate.new(Rack::Cascade.new(ENDPOINTS, [404]))
      ->(env) { Database::OnceHeard.within(Record, InstallationRecord) { gate.call(env) } }
    end
    private_class_method :gate

    # Where the sender's example page may send to: the collector by its public address, and, where all is plain HTTP, by
    # whatever name this machine is called.
    def collectors(settings)
      settings.https? ? settings.collector_url : "#{settings.collector_url} http://*:#{settings.collector_port}"
    end
    private_class_method :collectors

    # The API for addresses under /api, spelt exactly so, what watches over it under /health and /metrics, signing in by
    # a provider under /sign-in, and the front end for all others.
    class Parts
      API_PATH = "/api"
      HEALTH_PATH = "/health/"
      FIGURES_PATH = "/metrics"

      # @param api [#call]
      # @param health [#call]
      # @param figures [#call]
      # @param provider [#call]
      # @param front_end [#call]
      def initialize(api, health, figures, provider, front_end:)
        @api = api
        @provider = provider
        @health = health
        @figures = figures
        @front_end = front_end
      end

      def call(env)
        path = env["PATH_INFO"]
        return @figures.call(env) if path == FIGURES_PATH
        return @provider.call(env) if path.start_with?(Access::ProviderSignIn::PATH)
        return @health.call(env) if path.start_with?(HEALTH_PATH)
        return @front_end.call(env) unless path.start_with?("#{API_PATH}/")

        status, headers, body = @api.call(env.merge("SCRIPT_NAME" => "#{env["SCRIPT_NAME"]}#{API_PATH}",
                                                    "PATH_INFO" => path.delete_prefix(API_PATH)))
        # What is answered may be about people, and is of this moment.
        [status, { "cache-control" => "no-store" }.merge(headers), body]
      end
    end

    # Adds the security headers to every answer.
    class SecurityHeaders
      STRICT_TRANSPORT = { "strict-transport-security" => "max-age=31536000" }.freeze

      # @param app [#call]
      # @param https [Boolean] whether Estrel is reached by https
      def initialize(app, https:)
        @app = app
        @headers = https ? HEADERS.merge(STRICT_TRANSPORT) : HEADERS
      end

      def call(env)
        status, headers, body = @app.call(env)
        [status, @headers.merge(headers), body]
      end
    end

    # Serves the built front end; addresses of its own are answered with its one page. The browser sender and its
    # example page lie beside it; the example may speak to the collector.
    class FrontEnd
      SENDER = %r{\A/sender/\w[\w-]*(?:\.[\w-]+)*\z} # linear: every dot is followed by a run without dots
      ASSET = %r{\A/assets/[\w.-]+\z|\A/[\w-]+\.\w+\z} # linear: one run of characters, then one dot
      EARLY = %w[session workspace rule-sets catalogue].freeze
      PAGE = %r{\A/(?:[\w-]+/?)*\z} # linear: what follows a run is a slash or the end

      def initialize(directory, collectors)
        @directory = directory
        @files = Rack::Files.new(directory)
        @sender_policy = HEADERS["content-security-policy"].sub("connect-src 'self'",
                                                                "connect-src 'self' #{collectors}")
      end

      def call(env)
        path = env["PATH_INFO"]
        return sender(env) if SENDER.match?(path)
        return asset(env) if ASSET.match?(path)

        page = File.join(@directory, "index.html")
        unless File.file?(page)
          return [503, { "content-type" => "text/plain" }, ["The front end has not been built; run bin/start."]]
        end

        # The page itself says that there is nothing under an address.
        headers = { "content-type" => "text/html; charset=utf-8", "cache-control" => "no-cache" }
        [PAGE.match?(path) ? 200 : 404, headers.merge(early(env)), [File.read(page)]]
      end

      private

      # What the page asks first, and the scripts of the place, for the browser to fetch while it reads the page. Only
      # with a session cookie.
      def early(env)
        return {} unless env["HTTP_COOKIE"].to_s.include?("#{Access::SessionCookie::NAME}=")

        asked = EARLY.map { |path| "<#{env["SCRIPT_NAME"]}/api/#{path}>; rel=preload; as=fetch; crossorigin=anonymous" }
        scripts = scripts_of(env["PATH_INFO"]).map { |name| "</#{name}>; rel=modulepreload" }
        { "link" => [*asked, *scripts].join(", ") }
      end

      # @param path [String] of a page
      # @return [Array<String>] names of the files, which the build lists by the beginning of the address
      def scripts_of(path)
        place, part = path.split("/").reject(&:empty?)
        place ||= "lifecycle"
        all = JSON.parse(File.read(File.join(@directory, "early.json")))
        one = "#{place}/*"
        keys = part && all.key?(one) ? [one] : [place, "#{place}/#{part}"]
        all.values_at(*keys).flatten.compact.uniq
      end

      # Other sites may load the script, and it keeps its address when it changes.
      def sender(env)
        status, headers, body = @files.call(env)
        [status, headers.merge("content-security-policy" => @sender_policy, "cache-control" => "no-cache",
                               "cross-origin-resource-policy" => "cross-origin"), body]
      end

      # Scripts and styles are packed once, when the front end is built.
      def asset(env)
        path = env["PATH_INFO"]
        packed = env["HTTP_ACCEPT_ENCODING"].to_s.match?(/\bbr\b/) && File.file?(File.join(@directory, "#{path}.br"))
        status, headers, body = @files.call(packed ? env.merge("PATH_INFO" => "#{path}.br") : env)
        return [status, headers, body] unless status == 200

        headers = headers.merge("cache-control" => "public, max-age=31536000, immutable")
        headers.update("content-encoding" => "br", "content-type" => Rack::Mime.mime_type(File.extname(path))) if packed
        [status, headers.merge("vary" => "Accept-Encoding"), body]
      end
    end
  end
end
