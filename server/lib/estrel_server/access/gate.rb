# frozen_string_literal: true

module EstrelServer
  module Access
    # Stands before the API: finds out who asks (a session's cookie, or a token), whether they may, hides personal data
    # from viewers, and writes the log.
    class Gate
      COOKIE = "estrel_session"

      # Who asks, and the most they may do.
      Bearer = Struct.new(:account, :role)

      # @param app [#call]
      def initialize(app)
        @app = app
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        request = Rack::Request.new(env)
        # As it is read by whoever answers: written otherwise, it is still the same address.
        path = Rack::Utils.unescape_path(request.path).scrub.delete_prefix("/api")
        needed = Rights.needed(request.request_method, path)
        bearer = bearer(request)
        return refusal(401, "sign in first") if needed && bearer.nil?
        return refusal(403, "this takes #{article(needed)}") if needed && !allowed?(bearer, needed)
        return refusal(403, "viewers cannot search for identifiers") if bearer && probing?(request, bearer)

        Current.set(account: bearer&.account) { answer(env, request, path, bearer) }
      end

      private

      def bearer(request)
        authorization = request.get_header("HTTP_AUTHORIZATION").to_s
        if authorization.start_with?("Bearer ")
          token = ApiToken.of(authorization.delete_prefix("Bearer "))
          return token && Bearer.new(token.account, most(token))
        end
        session = AccountSession.of(request.cookies[COOKIE])
        session && Bearer.new(session.account, session.account.role)
      end

      # What both the token's scopes and the account's role allow.
      def most(token)
        by_scope = token.scopes.map { |scope| ApiToken::SCOPES.fetch(scope) }
        [by_scope.max_by { |role| Account::ROLES.index(role) }, token.account.role].min_by { |role| Account::ROLES.index(role) }
      end

      def allowed?(bearer, needed) = Account::ROLES.index(bearer.role) >= Account::ROLES.index(needed)

      # Whose data shows in the order of answers could be guessed letter by letter.
      def probing?(request, bearer)
        bearer.role == "viewer" && request.get? && !request.GET["search"].to_s.empty?
      end

      def answer(env, request, path, bearer)
        status, headers, body = @app.call(env)
        Log.note(request, path, bearer.account) if bearer && (200..299).cover?(status)
        return [status, headers, body] unless bearer&.role == "viewer" && headers["content-type"].to_s.include?("json")

        text = +""
        body.each { |part| text << part }
        body.close if body.respond_to?(:close)
        [status, headers.except("content-length"), [JSON.generate(Masking.masked(JSON.parse(text)))]]
      end

      def article(role) = role == "viewer" ? "somebody signed in" : "an #{role}"

      def refusal(status, detail)
        problem = { type: "about:blank", title: Rack::Utils::HTTP_STATUS_CODES.fetch(status), status: status,
                    detail: detail, errors: [] }
        [status, { "content-type" => "application/problem+json" }, [JSON.generate(problem)]]
      end
    end
  end
end
