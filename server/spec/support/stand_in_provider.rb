# frozen_string_literal: true

require "puma"
require "json/jwt"

# An OpenID provider for specs, on loopback: signs in whomever it is told to, and can be told to lie.
class StandInProvider
  CLIENT = "estrel"
  SECRET = "between us"

  # What it says of somebody, by claim; a block may change the signed token.
  attr_accessor :claims, :lie

  attr_reader :port

  def initialize(host = "127.0.0.1")
    @host = host
    @key = OpenSSL::PKey::RSA.new(2048)
    @asked = {}
    @server = Puma::Server.new(method(:call), nil, { min_threads: 1, max_threads: 2, log_writer: Puma::LogWriter.null })
    @port = @server.add_tcp_listener("127.0.0.1", 0).addr[1]
    @server.run
  end

  def issuer = "http://#{@host}:#{port}"

  def stop = @server.stop(true)

  # What a browser that is sent here comes back with.
  def visit(address)
    query = Rack::Utils.parse_query(URI(address).query)
    code = SecureRandom.hex
    @asked[code] = query
    { "code" => code, "state" => query["state"], "to" => query["redirect_uri"] }
  end

  # Signed as it says it signs, or by somebody else's key or none.
  def token(claims, key = @key, algorithm = :RS256)
    jwt = JSON::JWT.new(claims)
    return jwt.to_s if algorithm == :none

    jwt.kid = "one"
    jwt.sign(key, algorithm).to_s
  end

  def public_key = @key.public_key.to_pem

  private

  # A browser is sent back at once.
  def call(env)
    request = Rack::Request.new(env)
    if request.path_info == "/authorize"
      back = visit(request.url)
      return [302, { "location" => "#{back["to"]}?#{Rack::Utils.build_query(back.slice("code", "state"))}" }, []]
    end
    body = answer(request)
    [body ? 200 : 400, { "content-type" => "application/json" }, [JSON.generate(body || { error: "invalid_grant" })]]
  end

  def answer(request)
    case request.path_info
    when "/.well-known/openid-configuration"
      { issuer: issuer, authorization_endpoint: "#{issuer}/authorize", token_endpoint: "#{issuer}/token", jwks_uri: "#{issuer}/jwks",
        response_types_supported: ["code"], subject_types_supported: ["public"], id_token_signing_alg_values_supported: ["RS256"] }
    when "/jwks" then { keys: [@key.public_key.to_jwk(kid: "one", use: "sig")] }
    when "/token" then tokens(request)
    end
  end

  # Each code once, for the client, with the word whose digest it was asked with.
  def tokens(request)
    asked = @asked.delete(request.POST["code"]) or return
    unless request.env["HTTP_AUTHORIZATION"] == "Basic #{Base64.strict_encode64("#{CLIENT}:#{CGI.escape(SECRET)}")}"
      return
    end
    unless Base64.urlsafe_encode64(Digest::SHA256.digest(request.POST["code_verifier"].to_s), padding: false) == asked["code_challenge"]
      return
    end

    now = Time.now.to_i
    said = { iss: issuer, aud: CLIENT, sub: "7", nonce: asked["nonce"], iat: now, exp: now + 300, email: "ada@estrel.example", email_verified: true, **claims }
    { access_token: "x", token_type: "Bearer", id_token: lie ? lie.call(said) : token(said) }
  end
end
