# frozen_string_literal: true

module EstrelServer
  module Access
    # Signing in by a {Provider}: sends somebody there and takes them back, at /sign-in/begin and /sign-in/return. What
    # has to come back with them is in a cookie that nobody else can read or make.
    class ProviderSignIn
      PATH = "/sign-in/"
      COOKIE = "estrel_signing_in"
      # Seconds for which somebody may be away.
      LONGEST = 600
      STRANGER = "sign-in could not be verified; start again"
      HTML = { "content-type" => "text/html; charset=utf-8", "cache-control" => "no-store" }.freeze
      private_constant :STRANGER, :HTML

      # @param provider [Provider, nil]
      # @param settings [Settings]
      def initialize(provider, settings = EstrelServer.settings)
        @provider = provider
        @settings = settings
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        request = Rack::Request.new(env)
        return page(404, "Page not found.") if @provider.nil? || !request.get?

        held(request)
        case request.path_info
        when "#{PATH}begin" then send_away
        when "#{PATH}return" then take_back(request)
        else page(404, "Page not found.")
        end
      rescue Error => e
        page(403, Estrel::English.sentence(e.message))
      rescue ActiveRecord::RecordInvalid, ActiveRecord::RecordNotUnique, ActiveRecord::ValueTooLong => e
        Log.error("the account that a provider vouches for cannot be stored", e)
        page(403, "Your account cannot be stored; an administrator finds the reason in the log.")
      rescue *Database::Store::AWAY
        page(503, "The database does not answer; try again in a moment.")
      end

      private

      def held(request)
        attempts = Attempts.new(@settings.attempts_directory)
        raise Error, "too many attempts; try again in a minute" if attempts.too_many?(SecureRandom.hex, peer(request))
      end

      def peer(request) = request.env["REMOTE_ADDR"].to_s

      def send_away
        trip = @provider.trip
        answer = Rack::Response.new([], 302, { "location" => @provider.address(trip), "cache-control" => "no-store" })
        # It comes back from another site.
        answer.set_cookie(COOKIE, value: secret.encrypt_and_sign(JSON.generate(trip.to_a), expires_in: LONGEST),
                                  path: PATH, httponly: true, same_site: :lax, secure: @settings.https?)
        answer.finish
      end

      def take_back(request)
        trip = trip(request)
        unless trip && Rack::Utils.secure_compare(trip.state, request.GET["state"].to_s)
          refused("unknown", request, STRANGER)
        end
        raise Error, "#{@provider.name} refused the sign-in" if request.GET["code"].to_s.empty?

        identity = @provider.identity(request.GET["code"].to_s, trip)
        found = account(identity)
        refused(identity.email, request, "there is no account for #{identity.email}") unless found
        let_in(found, request)
      end

      def trip(request)
        json = secret.decrypt_and_verify(request.cookies[COOKIE].to_s)
        json && Provider::Trip.new(*JSON.parse(json))
      rescue ActiveSupport::MessageEncryptor::InvalidMessage
        nil
      end

      def secret
        @secret ||= ActiveSupport::MessageEncryptor.new(Settings::Secrets.key(@settings, "sign-in"),
                                                        cipher: "aes-256-gcm", serializer: JSON)
      end

      # Who has come before goes by the provider's own name for them; who has not, by the address it has verified.
      def account(identity)
        subject = @provider.own(identity.subject)
        Account.transaction do
          found = Account.find_by(provider_subject: subject) || Account.lock.find_by(email: identity.email) ||
                  made(identity.email)
          next if found.nil? || found.disabled_at || ![nil, subject].include?(found.provider_subject)

          found.confirm
          found.tap { found.update!(provider_subject: subject) }
        end
      end

      def made(email) = @settings.oidc_role && Account.create!(email: email, role: @settings.oidc_role)

      def refused(who, request, why)
        AuditEntry.add("sign-in refused", who: who, from_address: peer(request), about: @provider.name)
        raise Error, why
      end

      # By a page of our own, since browsers keep the cookie to themselves while they come from another site.
      def let_in(account, request)
        AuditEntry.add("signed in", who: account.email, from_address: peer(request), about: @provider.name)
        answer = Rack::Response.new([document("You are signed in.", go_on: true)], 200, HTML.dup)
        key = AccountSession.open(account, from_address: peer(request), agent: request.user_agent, through: "provider")
        SessionCookie.set(answer, key)
        answer.delete_cookie(COOKIE, path: PATH)
        answer.finish
      end

      def page(status, text) = [status, HTML.dup, [document(text)]]

      def document(text, go_on: false)
        refresh = "<meta http-equiv=\"refresh\" content=\"0; url=/\">" if go_on
        "<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>Estrel</title>#{refresh}</head>" \
          "<body><main><h1>Estrel</h1><p>#{Rack::Utils.escape_html(text)}</p><p><a href=\"/\">Go to Estrel</a></p>" \
          "</main></body></html>"
      end
    end
  end
end
