# frozen_string_literal: true

module EstrelServer
  module Access
    # A service that says who somebody is, by OpenID Connect: the authorization code flow with PKCE (RFC 7636), state
    # and nonce. What it says is believed where its signature, issuer, audience, time and nonce are right.
    class Provider
      # Who somebody is: by the provider's own name for them, which never changes, and by their e-mail address.
      Identity = Struct.new(:subject, :email)
      # What has to come back with the one who was sent away.
      Trip = Struct.new(:state, :nonce, :verifier)

      # Raised where the provider does not say who somebody is.
      class Refused < Error; end

      # @param settings [Settings]
      # @return [Provider, nil] nil where none is named
      def self.of(settings) = settings.oidc_issuer && new(settings)

      # @return [String] what people call it
      attr_reader :name

      # @param settings [Settings]
      def initialize(settings)
        require "openid_connect" # only where it is needed
        @issuer = settings.oidc_issuer
        @client = settings.oidc_client
        @secret = settings.oidc_secret
        @name = settings.oidc_name
        @return_to = "#{settings.public_url}/sign-in/return"
        # On this machine only, see Settings.
        SWD.url_builder = URI::HTTP if @issuer.start_with?("http:")
      end

      # @return [Trip]
      def trip = Trip.new(*Array.new(3) { SecureRandom.urlsafe_base64(32) })

      # @param trip [Trip]
      # @return [String] where to send somebody
      # @raise [Refused] where the provider does not answer
      def address(trip)
        asking do
          client(discovered).authorization_uri(
            scope: %w[openid email], state: trip.state, nonce: trip.nonce, code_challenge_method: "S256",
            code_challenge: Base64.urlsafe_encode64(Digest::SHA256.digest(trip.verifier), padding: false)
          )
        end
      end

      # @param code [String] with which somebody came back
      # @param trip [Trip]
      # @return [Identity]
      # @raise [Refused]
      def identity(code, trip)
        asking do
          found = discovered
          token = token(found, code, trip.verifier)
          said = OpenIDConnect::ResponseObject::IdToken.decode(token.id_token.to_s, found.jwks)
          said.verify!(issuer: @issuer, client_id: @client, nonce: trip.nonce)
          who(said.raw_attributes)
        end
      end

      # @param subject [String]
      # @return [String] tells it from the same name at another provider
      def own(subject) = "#{@issuer} #{subject}"

      private

      # Anew each time, since keys change and signing in is rare.
      def discovered = OpenIDConnect::Discovery::Provider::Config.discover!(@issuer)

      def client(found)
        OpenIDConnect::Client.new(identifier: @client, secret: @secret, redirect_uri: @return_to,
                                  authorization_endpoint: found.authorization_endpoint,
                                  token_endpoint: found.token_endpoint)
      end

      def token(found, code, verifier)
        client = client(found)
        client.authorization_code = code
        client.access_token!(client_auth_method: :basic, code_verifier: verifier)
      end

      def who(said)
        email = said["email"].to_s.strip.downcase
        raise Refused, "#{@name} did not provide your email address" if email.empty?
        raise Refused, "#{@name} has not verified your email address" unless said["email_verified"] == true

        Identity.new(said["sub"].to_s, email)
      end

      def asking
        yield
      rescue Error
        raise
      rescue OpenIDConnect::Discovery::DiscoveryFailed, Faraday::Error, SWD::Exception => e
        Log.error("the sign-in provider is not responding", e)
        raise Refused, "#{@name} does not answer; try again in a moment"
      rescue Rack::OAuth2::Client::Error, OpenIDConnect::ResponseObject::IdToken::InvalidToken, OpenIDConnect::Exception,
             JSON::JWT::Exception, JSON::JWS::VerificationFailed, JSON::JWK::Set::KidNotFound, OpenSSL::PKey::PKeyError,
             JSON::ParserError, AttrRequired::AttrMissing, TypeError, ArgumentError => e
        Log.error("the response of the sign-in provider could not be verified", e)
        raise Refused, "what #{@name} says cannot be believed; the log has the details"
      end
    end
  end
end
