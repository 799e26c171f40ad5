# frozen_string_literal: true

require "ipaddr"
require "resolv"
require "uri"

module EstrelServer
  module Pushing
    # Which addresses destinations may have, so that nobody reaches inside the network through Estrel: HTTPS, at an
    # address of the public Internet. What else is allowed is named by the operator (`ESTREL_PUSH_HOSTS`); the messaging
    # stand-in on this machine may be spoken to in plain.
    #
    # A name is resolved once and the connection made to the number that was judged, so that a name that changes its
    # meaning in between gains nothing.
    class AddressGuard
      # Raised for addresses that are not allowed; says why.
      class Refused < Error; end

      # What is not the public Internet: IANA's special-purpose address registries (RFC 6890), multicast included.
      INTERNAL = %w[
        0.0.0.0/8 10.0.0.0/8 100.64.0.0/10 127.0.0.0/8 169.254.0.0/16 172.16.0.0/12 192.0.0.0/24 192.0.2.0/24
        192.88.99.0/24 192.168.0.0/16 198.18.0.0/15 198.51.100.0/24 203.0.113.0/24 224.0.0.0/4 240.0.0.0/4
        ::/96 ::ffff:0:0/96 64:ff9b::/96 64:ff9b:1::/48 100::/64 2001::/23 2001:db8::/32 2002::/16 fc00::/7
        fe80::/10 fec0::/10 ff00::/8
      ].map { |range| IPAddr.new(range) }.freeze
      # An address that may be connected to: where, and the number judged.
      Target = Struct.new(:uri, :ip, keyword_init: true)

      # @param settings [Settings]
      # @param resolver [#call] a host's name to its numbers
      def initialize(settings = EstrelServer.settings, resolver: Resolv.method(:getaddresses))
        @settings = settings
        @resolver = resolver
      end

      # @param url [String]
      # @return [URI::HTTP] of a form that could be allowed
      # @raise [Refused]
      def parse(url)
        uri = URI.parse(url.to_s.strip)
        raise Refused, FORM unless uri.is_a?(URI::HTTP) && uri.host
        raise Refused, "the URL must not contain a user name or password; use the secret instead" if uri.userinfo
        raise Refused, "the address must begin with https://" unless uri.scheme == "https" || stand_in?(uri)

        uri
      rescue URI::InvalidURIError
        raise Refused, "the address is not a valid one"
      end

      # @param url [String]
      # @return [Target]
      # @raise [Refused]
      # @raise [SocketError] where the name is not known now
      def target(url)
        uri = parse(url)
        numbers = numbers(uri.hostname)
        raise SocketError, "no address is known for #{uri.hostname}" if numbers.empty?

        inside = numbers.find { |number| internal?(number) }
        if inside && !allowed?(uri)
          raise Refused, "#{uri.hostname} is inside the network (#{inside}), which is not allowed; your " \
                         "administrator can allow it with ESTREL_PUSH_HOSTS"
        end

        Target.new(uri: uri, ip: numbers.first.to_s)
      end

      FORM = "the address is one such as https://messages.example.com/people"
      private_constant :FORM

      private

      def numbers(host)
        [IPAddr.new(host)]
      rescue IPAddr::InvalidAddressError
        @resolver.call(host).map { |number| IPAddr.new(number.sub(/%.*/, "")) }
      end

      def internal?(number) = INTERNAL.any? { |range| range.family == number.family && range.include?(number) }

      def allowed?(uri)
        stand_in?(uri) || @settings.push_hosts.intersect?([uri.hostname, "#{uri.hostname}:#{uri.port}"])
      end

      def stand_in?(uri)
        @settings.stand_in && ["127.0.0.1", "localhost"].include?(uri.host) && uri.port == @settings.stand_in_port
      end
    end
  end
end
