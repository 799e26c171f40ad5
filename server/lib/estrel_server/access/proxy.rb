# frozen_string_literal: true

require "ipaddr"

module EstrelServer
  module Access
    # Stands before everything and settles once who the true peer is: what a proxy says about it is believed only where
    # the proxy's own address is one of those named in the settings. From here on REMOTE_ADDR and the scheme are true,
    # and nobody needs to look at a forwarded header again.
    class Proxy
      FORWARDED = %w[HTTP_X_FORWARDED_FOR HTTP_X_FORWARDED_PROTO HTTP_X_FORWARDED_HOST HTTP_X_FORWARDED_PORT
                     HTTP_X_FORWARDED_SCHEME HTTP_X_FORWARDED_SSL HTTP_FORWARDED HTTP_CLIENT_IP].freeze

      # @param app [#call]
      # @param trusted [Array<IPAddr>] the proxies in front of Estrel
      def initialize(app, trusted)
        @app = app
        @trusted = trusted
      end

      # @param env [Hash] the Rack environment
      # @return [Array] status, headers, body
      def call(env)
        env["estrel.proxied"] = FORWARDED.any? { |name| env.key?(name) }
        if trusted?(env["REMOTE_ADDR"])
          scheme = env["HTTP_X_FORWARDED_PROTO"]
          env["rack.url_scheme"] = scheme if %w[http https].include?(scheme)
          env["REMOTE_ADDR"] = peer(env)
        end
        FORWARDED.each { |name| env.delete(name) }
        @app.call(env)
      end

      private

      # The nearest address that is not a proxy of ours; what stands before it in the list anybody can have written.
      def peer(env)
        env["HTTP_X_FORWARDED_FOR"].to_s.split(",").map(&:strip).reverse_each do |address|
          return env["REMOTE_ADDR"] unless address?(address)
          return address unless trusted?(address)
        end
        env["REMOTE_ADDR"]
      end

      def trusted?(text) = address?(text) && @trusted.any? { |network| network.include?(IPAddr.new(text)) }

      def address?(text)
        IPAddr.new(text.to_s) && true
      rescue IPAddr::Error
        false
      end
    end
  end
end
